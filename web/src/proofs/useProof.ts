import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { reactive } from 'vue'

import { answer, sendBytes, server } from '../api/client'
import type { Proof } from '../viewer/layer'
import { proofQueries, type Printer } from './queries'

export type { Printer } from './queries'

/** The same on every bench until the page is loaded anew. */
const proof = reactive<Proof>({ printer: 'made-up', intent: 'relative', black_point: true, paper: false, warn: true })

export function useProof() {
  return proof
}

export function usePrinters() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: proofQueries.printers().queryKey })
  const { data: printers } = useQuery(proofQueries.printers())
  const bring = useMutation({
    mutationFn: (file: File) => sendBytes<Printer>('/api/printers', file),
    onSuccess: refresh,
  })
  const remove = useMutation({
    mutationFn: (id: string) =>
      answer(server.DELETE('/api/printers/{printer_id}', { params: { path: { printer_id: id } } })),
    onSuccess: refresh,
  })
  return { printers, bring, remove }
}
