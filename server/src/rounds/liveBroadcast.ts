import type { LiveValues } from '../devices/liveValues.ts'

const EVERY_MS = 500

/**
 * Tells all who listen what has changed of the live values: looked at once for all of them, and written as text once.
 * @returns joins one, who has seen all that is there; and that returns how to leave
 */
export function liveBroadcast(live: Pick<LiveValues, 'all'>): (tell: (text: string) => void) => () => void {
  const listeners = new Set<(text: string) => void>()
  let timer: NodeJS.Timeout | null = null
  let told = new Map<string, string>()
  const texts = () => new Map(live.all().map((value) => [value.position, JSON.stringify(value)]))
  const look = () => {
    const now = texts()
    const changed = [...now].flatMap(([position, text]) => (told.get(position) === text ? [] : [text]))
    told = now
    // Empty where nothing has: whoever listens knows that it is so, and that they are still heard.
    const message = `[${changed.join(',')}]`
    for (const tell of listeners) tell(message)
  }
  return (tell) => {
    // Whoever joins in between hears of what they have seen once more, and misses nothing.
    if (timer === null) {
      told = texts()
      timer = setInterval(look, EVERY_MS)
    }
    listeners.add(tell)
    return () => {
      listeners.delete(tell)
      if (listeners.size > 0 || timer === null) return
      clearInterval(timer)
      timer = null
    }
  }
}
