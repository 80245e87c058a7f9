export type Point = [number, number]

/** The slope at each point of a curve that never swings beyond its points, as the core draws it. */
function slopes(points: Point[]): number[] {
  const width = points.slice(1).map(([x], index) => x - points[index]![0])
  const rise = points.slice(1).map(([, y], index) => (y - points[index]![1]) / width[index]!)
  if (points.length === 2) return [rise[0]!, rise[0]!]
  const end = (own: number, next: number, first: number, second: number) => {
    const slope = ((2 * own + next) * first - own * second) / (own + next)
    if (slope * first <= 0) return 0
    return first * second < 0 && Math.abs(slope) > 3 * Math.abs(first) ? 3 * first : slope
  }
  const last = rise.length - 1
  const inner = rise.slice(1).map((after, index) => {
    const before = rise[index]!
    if (before * after <= 0) return 0
    const [one, two] = [2 * width[index + 1]! + width[index]!, width[index + 1]! + 2 * width[index]!]
    return (one + two) / (one / before + two / after)
  })
  return [
    end(width[0]!, width[1]!, rise[0]!, rise[1]!),
    ...inner,
    end(width[last]!, width[last - 1]!, rise[last]!, rise[last - 1]!),
  ]
}

/** The curve through points, x rising, at a value; before the first and behind the last it goes on straight. */
export function curveThrough(points: Point[]): (value: number) => number {
  const slope = slopes(points)
  return (value) => {
    const last = points.length - 1
    if (value <= points[0]![0]) return points[0]![1] + slope[0]! * (value - points[0]![0])
    if (value >= points[last]![0]) return points[last]![1] + slope[last]! * (value - points[last]![0])
    const place = points.findIndex(([x]) => x > value) - 1
    const [[x, y], [nextX, nextY]] = [points[place]!, points[place + 1]!]
    const width = nextX - x
    const share = (value - x) / width
    const rest = 1 - share
    return (
      (1 + 2 * share) * rest ** 2 * y +
      share * rest ** 2 * width * slope[place]! +
      share ** 2 * (3 - 2 * share) * nextY -
      share ** 2 * rest * width * slope[place + 1]!
    )
  }
}

/** Points may not come nearer to each other than this. */
export const nearest = 0.01
/** As many as a curve may have. */
export const mostPoints = 16

const held = (value: number) => Math.max(0, Math.min(1, Math.round(value * 1000) / 1000))

/** A point put where the curve was clicked; the points as they were where there is no room for one. */
export function withPoint(points: Point[], [x, y]: Point): Point[] {
  if (points.length >= mostPoints || points.some(([other]) => Math.abs(other - x) < nearest)) return points
  return [...points, [held(x), held(y)] as Point].sort(([a], [b]) => a - b)
}

/** A point moved, no further than its neighbours let it. */
export function movedPoint(points: Point[], place: number, [x, y]: Point): Point[] {
  const least = place ? points[place - 1]![0] + nearest : 0
  const most = place < points.length - 1 ? points[place + 1]![0] - nearest : 1
  return points.with(place, [held(Math.max(least, Math.min(most, x))), held(y)])
}

/** Without a point; a curve keeps two, so the last two stay. */
export function withoutPoint(points: Point[], place: number): Point[] {
  return points.length > 2 ? points.toSpliced(place, 1) : points
}

/** Whether a curve does nothing. */
export const straight = (points: Point[]) => points.every(([x, y]) => x === y)
