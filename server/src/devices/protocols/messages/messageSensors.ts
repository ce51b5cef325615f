import { type ChannelName, type Clock, channelOf, type Place, type RawView } from '@frustum/contract'
import { readTypedNumber, render, timeSpan } from '@frustum/core'
import { LineProblem } from '../../lineProblem.ts'
import type { FollowedDevice, FollowedSensor, Told } from '../../link.ts'
import { type DeviceData, type Found, rawReadings, readingOf } from '../../mapping/readSensor.ts'
import type { FieldPlace, MessageRecord, Scalar } from './message.ts'

/** A clock that runs ahead by less is only a little fast, ms. */
export const AHEAD_MS = 5 * 60_000
/** The newest of a device being older than this, its clock is wrong or it is still catching up, ms. */
const BEHIND_MS = 24 * 3_600_000
/** Nothing came for so many of its own periods, or for so long: it is blind. */
const SILENT_PERIODS = 4
const SILENT_MS = { least: 30_000, unknown: 15 * 60_000 } as const

interface Followed {
  device: FollowedDevice
  sensor: FollowedSensor
  raw: RawView[]
  /** ms of the process when something came last, or when it was first waited for. */
  cameAt: number
  /** Epoch ms of the newest reading that was told. */
  newest: number
  /** Nothing more is said of its silence. */
  silent: boolean
}

/** Sensors of devices that say by themselves what they measure: what they said last, and whether they fell silent. */
export class MessageSensors {
  private followed = new Map<number, Followed>()
  private readonly watch: NodeJS.Timeout

  constructor(
    private readonly told: Told,
    private readonly clock: Clock,
    /** How often they are said to speak, ms. */
    private readonly everyMs: number | undefined,
  ) {
    this.watch = setInterval(() => this.noticeSilence(), 1000)
  }

  follow(devices: readonly FollowedDevice[]): void {
    const before = this.followed
    this.followed = new Map(
      devices.flatMap((device) =>
        device.sensors.map((sensor) => {
          const known = before.get(sensor.id)
          const same = known && JSON.stringify(known.sensor.mapping) === JSON.stringify(sensor.mapping)
          const fresh = { raw: [], cameAt: performance.now(), newest: 0, silent: false }
          return [sensor.id, { ...(same ? known : fresh), device, sensor }] as const
        }),
      ),
    )
  }

  all(): readonly { device: FollowedDevice; sensor: FollowedSensor }[] {
    return [...this.followed.values()]
  }

  raw(sensorId: number): RawView[] {
    return this.followed.get(sensorId)?.raw ?? []
  }

  /** Makes a reading of what came for a sensor, and tells it where it is newer than what was told. */
  take(sensorId: number, data: DeviceData, at: number): void {
    const one = this.followed.get(sensorId)
    if (!one) return
    one.cameAt = performance.now()
    one.silent = false
    one.raw = rawReadings(one.sensor, data)
    try {
      const now = this.clock.now()
      refuseWrongClock(at, now)
      const reading = readingOf(one.sensor, data, {
        at: Math.min(at, now),
        temperatureAt: (code) => this.told.temperatureAt(code),
      })
      if (reading.at < one.newest) return
      one.newest = reading.at
      this.told.reading(sensorId, reading)
    } catch (error) {
      this.told.failed(sensorId, asProblem(error))
    }
  }

  failed(sensorId: number, problem: LineProblem): void {
    if (this.followed.has(sensorId)) this.told.failed(sensorId, problem)
  }

  allFailed(problem: LineProblem): void {
    for (const id of this.followed.keys()) this.told.failed(id, problem)
  }

  private noticeSilence(): void {
    for (const [id, one] of this.followed) {
      const period = this.everyMs ?? this.told.everyMs(id)
      const patience = period === null ? SILENT_MS.unknown : Math.max(SILENT_MS.least, SILENT_PERIODS * period)
      const silence = performance.now() - one.cameAt
      if (one.silent || silence < patience) continue
      one.silent = true
      this.told.failed(id, new LineProblem('no-answer', `Nothing came of it for ${render([timeSpan(silence)])}.`))
    }
  }

  close(): void {
    clearInterval(this.watch)
  }
}

/** @throws LineProblem where what came is of no time that can be now */
function refuseWrongClock(at: number, now: number): void {
  const off = render([timeSpan(Math.abs(now - at))])
  if (at > now + AHEAD_MS) throw new LineProblem('no-reading', `Its clock is ${off} ahead: set it right.`)
  if (at < now - BEHIND_MS) {
    throw new LineProblem(
      'no-reading',
      `The newest that came is ${off} old: it is still catching up, or its clock is behind.`,
    )
  }
}

export const asProblem = (error: unknown): LineProblem =>
  error instanceof LineProblem ? error : new LineProblem('garbled', (error as Error).message)

/** A number, or the text where it is none. */
export function foundOf(value: Scalar): Found {
  if (typeof value === 'number') return { value: Number.isFinite(value) ? value : null }
  if (typeof value !== 'string') return { value: null, ...(value === null ? {} : { text: value }) }
  const text = value.trim()
  if (/^[+-]?(\d+(\.\d*)?|\.\d+)e[+-]?\d+$/i.test(text)) return { value: Number(text), text: value }
  // Of "1,413" it isn't known what the comma means: better no number than one a thousand times too large.
  const read = readTypedNumber(text)
  return { value: read.ok ? read.value : null, text: value }
}

/** The value of a field, in a record that has it. */
export const foundIn = (record: MessageRecord | null, { field }: Place): Found | undefined => {
  const value = record?.find(String(field))
  return value === undefined ? undefined : foundOf(value)
}

/** The newest of some moments in which a field stands; one without a time is of now. */
export function newestWith(records: readonly MessageRecord[], field: string): MessageRecord | null {
  let newest: MessageRecord | null = null
  for (const record of records) {
    if (record.find(field) === undefined) continue
    if (newest === null || (record.at ?? Number.POSITIVE_INFINITY) >= (newest.at ?? Number.POSITIVE_INFINITY))
      newest = record
  }
  return newest
}

/** Where the number stands that a sensor is read for: its value, or its signal where there is no value. */
export function mainPlace({ mapping }: FollowedSensor): FieldPlace | null {
  return ((channelOf(mapping, 'value') ?? channelOf(mapping, 'signal'))?.at as FieldPlace | undefined) ?? null
}

/** All places that a mapping names. */
export function fieldPlaces({ mapping }: FollowedSensor): FieldPlace[] {
  const names: ChannelName[] = ['value', 'signal', 'temperature', 'glass', 'junction']
  const places = [...names.map((name) => channelOf(mapping, name)?.at), mapping.status?.at]
  return places.filter((at) => at !== undefined) as FieldPlace[]
}
