import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { api, type Schemas } from '../api/client'

type Session = Schemas['Session']

/** Who is signed in, and signing in and out. */
export function useSession() {
  const client = useQueryClient()
  const query = useQuery({ queryKey: ['session'], queryFn: ({ signal }) => api.get<Session>('/session', signal) })

  const signingIn = useMutation({
    mutationFn: (credentials: Schemas['Credentials']) => api.post<Session>('/session', credentials),
    onSuccess: (session) => client.setQueryData(['session'], session),
  })

  async function signOut() {
    await api.delete('/session')
    // Nothing of one person's may be seen by the next.
    client.clear()
    await query.refetch()
  }

  return { session: query.data, loading: query.isLoading, error: query.error, signingIn, signOut }
}
