import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { reactive } from 'vue'

import { api, sendBytes, type Schemas } from '../api/client'
import type { OutputSpec } from '../deliveries/useDeliveries'

export type Printer = Schemas['PrinterOut']

/** How a soft proof is made; the same on every bench until the page is loaded anew. */
export interface Proof {
  printer: string
  intent: NonNullable<OutputSpec['intent']>
  black_point: boolean
  paper: boolean
  warn: boolean
}
const proof = reactive<Proof>({ printer: 'made-up', intent: 'relative', black_point: true, paper: false, warn: true })

export function useProof() {
  return proof
}

export function usePrinters() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['printers'] })
  const { data: printers } = useQuery({ queryKey: ['printers'], queryFn: ({ signal }) => api.get<Printer[]>('/printers', signal) })
  const bring = useMutation({ mutationFn: (file: File) => sendBytes<Printer>('/printers', file), onSuccess: refresh })
  const remove = useMutation({ mutationFn: (id: string) => api.delete(`/printers/${id}`), onSuccess: refresh })
  return { printers, bring, remove }
}
