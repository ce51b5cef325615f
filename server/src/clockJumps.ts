/** How often the clock of the machine is held against one that nobody can set. */
const EVERY_MS = 60_000
/** What is told, ms: clocks are put right by seconds all the time. */
const JUMP_MS = 60_000

/** Wall clock and steady clock, ms. */
interface Clocks {
  wall: () => number
  steady: () => number
}

/**
 * Tells when the machine's clock was set while the server ran, and by how much: what was recorded before and after is
 * dated by two clocks. @returns how to stop
 */
export function watchClock(
  tell: (jump: number) => void,
  { wall, steady }: Clocks = { wall: () => Date.now(), steady: () => performance.now() },
): () => void {
  let offset = wall() - steady()
  const timer = setInterval(() => {
    const now = wall() - steady()
    if (Math.abs(now - offset) > JUMP_MS) tell(now - offset)
    offset = now
  }, EVERY_MS)
  timer.unref()
  return () => clearInterval(timer)
}
