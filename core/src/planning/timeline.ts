import { requireWithin } from '../quantities/outOfRange.ts'

/** One piece of a job, in order: with hands on, or a wait that runs by itself. */
export interface JobPart {
  what: string
  minutes: number
  hands: boolean
  /** One such wait serves all jobs of the trip that have it: the float. */
  shared?: boolean
}

/** What is done at one sensor. Jobs come in the order in which they must be finished where they share a body. */
export interface Job {
  position: string
  parts: readonly JobPart[]
  /** Positions whose jobs must be done before this one begins its work. */
  after: readonly string[]
}

export interface TimelineEntry {
  position: string | null
  what: string
  /** Minutes from the arrival; negative for what must be started before. */
  start: number
  end: number
  hands: boolean
}

export interface Timeline {
  entries: TimelineEntry[]
  /** Minutes from arrival to the end, and of these with hands on. */
  length: number
  hands: number
  /** When the first thing must be started, minutes before the arrival. */
  lead: number
}

/**
 * Lays out a trip: waits overlap, the operator has two hands and does one thing at a time. Whatever waits first is
 * begun first, shared waits once. What opens a job with a wait, and needs no hands, is started ahead of the arrival so
 * that it is ready then: the float, the soak, the hydration.
 * @throws OutOfRange for a part of negative length
 * @throws RangeError when jobs wait for each other in a circle
 */
export function timelineOf(jobs: readonly Job[]): Timeline {
  for (const job of jobs)
    for (const p of job.parts) requireWithin(`Minutes of "${p.what}"`, p.minutes, 0, 20_000, 'min')
  const entries: TimelineEntry[] = []
  const sharedLead = new Map<string, number>()
  const state = jobs.map((job) => {
    const parts = [...job.parts]
    while (parts[0] && !parts[0].hands) {
      const wait = parts.shift() as JobPart
      if (wait.shared) sharedLead.set(wait.what, Math.max(sharedLead.get(wait.what) ?? 0, wait.minutes))
      else entries.push({ position: job.position, what: wait.what, start: -wait.minutes, end: 0, hands: false })
    }
    return { job, parts, ready: 0, done: parts.length === 0 }
  })
  for (const [what, minutes] of sharedLead)
    entries.push({ position: null, what, start: -minutes, end: 0, hands: false })
  let now = 0
  let hands = 0
  let length = 0
  while (state.some((s) => !s.done)) {
    const finished = new Set(state.filter((s) => s.done && s.ready <= now).map((s) => s.job.position))
    const among = new Set(jobs.map((j) => j.position))
    const free = state.filter((s) => !s.done && s.job.after.every((p) => finished.has(p) || !among.has(p)))
    const able = free.filter((s) => s.ready <= now)
    if (able.length === 0) {
      const later = [...free, ...state.filter((s) => s.done)].map((s) => s.ready).filter((t) => t > now)
      if (later.length === 0) throw new RangeError('Jobs wait for each other in a circle.')
      now = Math.min(...later)
      continue
    }
    // The one with the longest wait still before it goes first: its wait then runs beside the others' work.
    const next = able.reduce((a, b) => (waitAhead(b.parts) > waitAhead(a.parts) ? b : a))
    const part = next.parts.shift() as JobPart
    entries.push({ position: next.job.position, what: part.what, start: now, end: now + part.minutes, hands: true })
    now += part.minutes
    hands += part.minutes
    let ready = now
    while (next.parts[0] && !next.parts[0].hands) {
      const wait = next.parts.shift() as JobPart
      entries.push({
        position: next.job.position,
        what: wait.what,
        start: ready,
        end: ready + wait.minutes,
        hands: false,
      })
      ready += wait.minutes
    }
    next.ready = ready
    next.done = next.parts.length === 0
    length = Math.max(length, ready)
  }
  entries.sort((a, b) => a.start - b.start || a.end - b.end)
  return { entries, length, hands, lead: Math.max(0, ...entries.map((e) => -e.start)) }
}

const waitAhead = (parts: readonly JobPart[]): number => parts.reduce((sum, p) => sum + (p.hands ? 0 : p.minutes), 0)
