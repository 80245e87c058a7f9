import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'
import { peopleQueries } from './queries'

/** Who is signed in, and signing in and out. */
export function useSession() {
  const client = useQueryClient()
  const query = useQuery(peopleQueries.session())

  const signingIn = useMutation({
    mutationFn: (credentials: Schemas['Credentials']) => answer(server.POST('/api/session', { body: credentials })),
    onSuccess: (session) => client.setQueryData(peopleQueries.session().queryKey, session),
  })

  async function signOut() {
    await answer(server.DELETE('/api/session'))
    // Nothing of one person's may be seen by the next.
    client.clear()
    await query.refetch()
  }

  return { session: query.data, loading: query.isLoading, error: query.error, signingIn, signOut }
}
