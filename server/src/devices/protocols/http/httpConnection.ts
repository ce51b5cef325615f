import type { Clock, Place, RawView } from '@frustum/contract'
import { Exchanges } from '../../exchanges.ts'
import type { Bus, Driver, FollowedDevice, FollowedSensor, LineState, Link, Told, Tried } from '../../link.ts'
import { type DeviceData, rawReadings, readingOf } from '../../mapping/readSensor.ts'
import { asProblem, foundIn, MessageSensors, mainPlace, newestWith } from '../messages/messageSensors.ts'
import { readPayload } from '../messages/payload.ts'
import { FIELDS, fieldMapping } from '../messages/scheme.ts'
import { type Fetched, fetchPage } from './fetchPage.ts'

/** How often a page is fetched unless its settings say otherwise, and while somebody waits at the Bench, ms. */
const EVERY_MS = 5000
const WATCHED_EVERY_MS = 2000
/** How long one that does not answer is left alone: longer each time, ms. */
const REST = { first: 2000, longest: 60_000 } as const

interface Page {
  device: FollowedDevice
  due: number
  failures: number
  fetching: AbortController | null
}

/** Pages that are fetched, each in its own time: one that is slow keeps no other waiting. */
export class HttpConnection implements Driver {
  readonly exchanges: Exchanges
  private readonly sensors: MessageSensors
  private pages: Page[] = []
  private lineState: LineState
  private readonly beat: NodeJS.Timeout

  constructor(
    private readonly bus: Bus,
    private readonly clock: Clock,
    private readonly told: Told,
  ) {
    this.exchanges = new Exchanges(clock)
    this.sensors = new MessageSensors(told, clock, this.everyMs)
    this.lineState = { kind: 'waiting', since: clock.now(), why: null }
    this.beat = setInterval(() => this.fetchDue(), 250)
  }

  private get everyMs(): number {
    return Number(this.bus.settings.everyMs ?? EVERY_MS)
  }

  state(): LineState {
    return this.lineState
  }

  follow(devices: readonly FollowedDevice[]): void {
    this.sensors.follow(devices)
    const before = this.pages
    this.pages = devices.map((device) => {
      const known = before.find((p) => p.device.id === device.id && p.device.address.path === device.address.path)
      return known ? Object.assign(known, { device }) : { device, due: 0, failures: 0, fetching: null }
    })
    for (const page of before) if (!this.pages.includes(page)) page.fetching?.abort()
    this.fetchDue()
  }

  link(): Link | null {
    return { calibration: null, hold: null }
  }

  raw(sensorId: number): RawView[] {
    return this.sensors.raw(sensorId)
  }

  private fetchDue(): void {
    const now = performance.now()
    for (const page of this.pages) {
      const watched = page.failures === 0 && page.device.sensors.some((s) => this.told.isWatched(s.id))
      // Asked for sooner than it was due, since somebody waits for it now.
      const due = watched ? Math.min(page.due, now - this.everyMs + WATCHED_EVERY_MS) : page.due
      if (!page.fetching && due <= now) void this.turn(page, watched)
    }
  }

  private async turn(page: Page, watched: boolean): Promise<void> {
    const every = watched ? Math.min(this.everyMs, WATCHED_EVERY_MS) : this.everyMs
    const began = performance.now()
    page.due = began + every
    page.fetching = new AbortController()
    const at = this.clock.now()
    try {
      const { text } = await this.fetch(page.device, page.fetching.signal)
      if (!this.pages.includes(page)) return
      page.failures = 0
      if (this.lineState.kind !== 'up') this.lineState = { kind: 'up', since: this.clock.now(), why: null }
      for (const sensor of page.device.sensors) this.take(sensor, text, at)
    } catch (error) {
      if (!this.pages.includes(page)) return
      const problem = asProblem(error)
      page.failures++
      page.due = performance.now() + Math.min(REST.longest, REST.first * 2 ** Math.min(10, page.failures - 1))
      if (this.pages.every((p) => p.failures > 0) && this.lineState.why !== problem.message)
        this.lineState = { kind: 'down', since: this.clock.now(), why: problem.message }
      for (const { id } of page.device.sensors) this.sensors.failed(id, problem)
    } finally {
      page.fetching = null
    }
  }

  private take(sensor: FollowedSensor, text: string, at: number): void {
    try {
      const { data, saidAt } = pageData(sensor, text, at)
      this.sensors.take(sensor.id, data, saidAt ?? at)
    } catch (error) {
      this.sensors.failed(sensor.id, asProblem(error))
    }
  }

  private async fetch(device: FollowedDevice, signal: AbortSignal): Promise<Fetched> {
    const began = performance.now()
    const at = this.exchanges.now()
    const words = `fetches ${String(device.address.path || '/')}`
    const note = (outcome: string, failed: boolean, sent: string, received: string) =>
      this.exchanges.note({
        at,
        words,
        outcome,
        failed,
        sent: Buffer.from(sent),
        received: Buffer.from(received.slice(0, 300)),
        took: performance.now() - began,
      })
    try {
      const page = await fetchPage(this.bus, String(device.address.path ?? ''), signal)
      note(`answered with ${page.status}`, false, page.asked, page.text)
      return page
    } catch (error) {
      note((error as Error).message, true, '', '')
      throw error
    }
  }

  async tryOnce(device: FollowedDevice): Promise<Tried> {
    const [sensor] = device.sensors
    const at = this.clock.now()
    const { text } = await this.fetch(device, AbortSignal.timeout(10_000))
    if (!sensor) return { raw: [], reading: null, why: null }
    try {
      const { data, saidAt } = pageData(sensor, text, at)
      const raw = rawReadings(sensor, data)
      try {
        const reading = readingOf(sensor, data, { at: saidAt ?? at, temperatureAt: this.told.temperatureAt })
        return { raw, reading, why: null }
      } catch (error) {
        return { raw, reading: null, why: (error as Error).message }
      }
    } catch (error) {
      return { raw: [], reading: null, why: (error as Error).message }
    }
  }

  close(): void {
    clearInterval(this.beat)
    this.sensors.close()
    for (const page of this.pages) page.fetching?.abort()
    this.pages = []
  }
}

/** @throws PayloadProblem */
function pageData(sensor: FollowedSensor, text: string, now: number): { data: DeviceData; saidAt: number | null } {
  const { format = 'json', time } = fieldMapping(sensor.mapping)
  const records = readPayload(text, { format, time: time?.field, now })
  const find = (at: Place) => foundIn(newestWith(records, String(at.field)), at)
  const saidAt = newestWith(records, mainPlace(sensor)?.field ?? '')?.at ?? null
  return { data: { scheme: FIELDS, find }, saidAt }
}
