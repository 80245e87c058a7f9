import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'

import type { Schemas } from '../api/client'

type Picture = Schemas['PictureOut']

const lenders: InjectionKey<Ref<Picture[] | undefined>> = Symbol('lenders')

/** The pictures whose faces may lend detail: those of the job. */
export const provideLenders = (pictures: Ref<Picture[] | undefined>) => provide(lenders, pictures)
export const useLenders = () => inject(lenders, ref<Picture[]>())
