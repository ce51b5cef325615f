import type { Clock } from '@frustum/contract/clock'
import { fieldsOf, type Told } from './messages.ts'

/** What a logger remembers of a time without a network: a day of a reading a minute, and some. */
const MOST_KEPT = 5000

/**
 * A logger that notes what it reads and sends it on, as SenML: what it noted while it could not send goes with the next
 * that it can. Returns the way to end it.
 */
export function startLogger(
  told: Told,
  { url, everyMs, clock }: { url: string; everyMs: number; clock: Clock },
): () => void {
  let kept: object[] = []
  let sending = false
  const stop = new AbortController()
  const send = async () => {
    if (sending || told.transmitter.silent || kept.length === 0) return
    sending = true
    const sent = kept
    try {
      const headers = { 'content-type': 'application/senml+json' }
      const answer = await fetch(url, { method: 'POST', headers, body: JSON.stringify(sent), signal: stop.signal })
      if (answer.ok) kept = kept.slice(sent.length)
    } catch {
      // kept for the next time
    } finally {
      sending = false
    }
  }
  const timer = setInterval(() => {
    const t = Math.round(clock.now()) / 1000
    kept = kept.concat(fieldsOf(told).map(([n, v]) => ({ n, t, v }))).slice(-MOST_KEPT)
    void send()
  }, everyMs)
  return () => {
    clearInterval(timer)
    stop.abort()
  }
}
