import { QueryCache, QueryClient } from '@tanstack/vue-query'

import { ApiError } from './client'

/** Signed out elsewhere, or the session ran out: ask who is there, which shows the sign-in. */
function noticeSignedOut(error: Error) {
  if (error instanceof ApiError && error.status === 401) void queryClient.invalidateQueries({ queryKey: ['session'] })
}

export const queryClient: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: noticeSignedOut }),
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      // What the server refused it will refuse again; what did not reach it is worth a few more tries.
      retry: (count, error) =>
        count < 4 && (!(error instanceof ApiError) || error.status === 0 || error.status === 503),
      retryDelay: (count) => Math.min(4000, 500 * 2 ** count),
    },
  },
})
