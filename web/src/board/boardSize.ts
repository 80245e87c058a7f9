export type BoardSize = 'folded' | 'open' | 'full'

/** How the board of a picture was left; that of another one is folded. */
export function boardLeft(pictureId: string): BoardSize {
  const [of, size] = (localStorage.getItem('board') ?? '').split(' ')
  return of === pictureId ? (size as BoardSize) : 'folded'
}

/** The board of a picture comes back like this. */
export function leaveBoard(pictureId: string, size: BoardSize) {
  localStorage.setItem('board', `${pictureId} ${size}`)
}
