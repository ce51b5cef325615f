import type { MessageFormat } from '@frustum/contract'
import type { Bus } from '../../link.ts'
import { fetchPage } from '../http/fetchPage.ts'
import { brokerProblem, MOST_BYTES, openBroker } from '../mqtt/mqttConnection.ts'
import type { SentBody } from '../push/pushConnection.ts'

interface Hearer {
  heard(topic: string, text: string, retained: boolean): void
  failed(why: string): void
}

/** Where fields are looked for. */
export interface FieldSource {
  /** What is done, in words. */
  words: string
  /** What its messages are written in, where that is known. */
  format?: MessageFormat | undefined
  /** Returns the way to end it. */
  open(hearer: Hearer): () => void
}

/** How often a page is fetched, and what was sent is looked at, ms. */
const FETCH_MS = 2000
const LOOK_MS = 500
/** No topic is looked at more often than this, ms. */
const EACH_MS = 250

/** All that is published below a filter. */
export const topicsBelow = (bus: Bus, filter: string): FieldSource => ({
  words: `listens to ${filter === '#' ? 'all topics' : filter}`,
  open: ({ heard, failed }) => {
    const client = openBroker(bus)
    const lastAt = new Map<string, number>()
    client.on('connect', () => client.subscribe(filter, (error) => error && failed(brokerProblem(error, bus).message)))
    client.on('error', (error) => failed(brokerProblem(error, bus).message))
    client.on('message', (topic, payload, { retain }) => {
      const now = performance.now()
      if (payload.length > MOST_BYTES || now - (lastAt.get(topic) ?? 0) < EACH_MS) return
      lastAt.set(topic, now)
      heard(topic, payload.toString('utf8'), retain)
    })
    return () => client.end(true)
  },
})

export const page = (bus: Bus, path: string): FieldSource => ({
  words: `fetches ${path || '/'}`,
  open: ({ heard, failed }) => {
    const stop = new AbortController()
    const fetchIt = () =>
      fetchPage(bus, path, stop.signal).then(
        ({ text }) => heard('', text, false),
        (error: Error) => failed(error.message),
      )
    void fetchIt()
    const timer = setInterval(fetchIt, FETCH_MS)
    return () => {
      clearInterval(timer)
      stop.abort()
    }
  },
})

/** What a device sends by itself. */
export const sentBy = (sent: ReadonlyMap<number, SentBody>, deviceId: number): FieldSource => ({
  words: 'waits for what it sends',
  open: ({ heard }) => {
    let last: SentBody | undefined
    const look = () => {
      const body = sent.get(deviceId)
      if (!body || body === last) return
      last = body
      heard('', body.text, false)
    }
    look()
    const timer = setInterval(look, LOOK_MS)
    return () => clearInterval(timer)
  },
})
