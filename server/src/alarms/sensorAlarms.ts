import type { Clock, LearningView } from '@frustum/contract'
import {
  type AlarmChange,
  type AlarmKind,
  AlarmWatch,
  ApartWatch,
  alarmTypes,
  canExplain,
  DAY_MS,
  type DaySummary,
  dayStart,
  expectedError,
  modelOf,
  REDUNDANT_DIFFER,
  type Usual,
  usualOf,
  type WatchedReading,
} from '@frustum/core'
import type { Logger } from 'pino'
import { computedSensors } from '../ageing/computed.ts'
import type { SensorForecast } from '../ageing/forecasts.ts'
import type { Database } from '../database/open.ts'
import type { Installed } from '../sensors.ts'
import { areTwins, shownError } from '../shown.ts'
import { hourIn, siteCalendar } from '../zone.ts'
import { endAlarm, lastingAlarms, raiseAlarm } from './alarmStore.ts'
import { learnDays, learnedDaysOf, learnedThrough, pollIntervals, readAsOf, USUAL_DAYS } from './learned.ts'

const MINUTE_MS = 60_000
/** Two readings so far apart are compared as if they were of one time, ms. */
const SAME_TIME_MS = 20 * MINUTE_MS
/** What is older when it comes says nothing of now, ms. */
const LATE_MS = 10 * MINUTE_MS
/** Time that one call of `learn` may take, ms. */
const TURN_MS = 500
/** A device's clock may be ahead by so much, ms. */
const AHEAD_MS = MINUTE_MS

interface Watched {
  installed: Installed
  watch: AlarmWatch
  limits: string
  /** Whether its typical readings were looked up since it is watched. */
  isLearned: boolean
  /** Standard deviation of its error as it is forecast, and how far its last adjustment moved it, as shown. */
  sd: number
  shift: number
  usual: Usual | null
  latest: { at: number; value: number } | null
}

interface Pair {
  watch: ApartWatch
  ids: readonly [number, number]
  /** The code of the other one. */
  subject: string
  at: number
}

/** Watches what all sensors read. What changes is written at once, one after the other. */
export class SensorAlarms {
  private readonly watched = new Map<number, Watched>()
  private readonly pairs = new Map<string, Pair>()
  private writing: Promise<void> = Promise.resolve()
  private timeZone = 'UTC'
  private hourOfDay = hourIn('UTC')

  constructor(
    private readonly db: Database,
    private readonly clock: Clock,
    private readonly log: Logger,
  ) {}

  /** From now on these are watched, by the limits that they have; what was raised before a restart still is. */
  async follow(installed: readonly Installed[]): Promise<void> {
    const fresh = installed.filter(({ position }) => !this.watched.has(position.id))
    const open = fresh.length > 0 ? await lastingAlarms(this.db) : []
    const { timeZone } = await siteCalendar(this.db, this.clock.now())
    if (timeZone !== this.timeZone) {
      this.timeZone = timeZone
      this.hourOfDay = hourIn(timeZone)
    }
    for (const one of installed) {
      const { position } = one
      const limits = JSON.stringify(position.limits)
      const known = this.watched.get(position.id)
      if (!known || known.installed.installation.id !== one.installation.id) {
        const raised = open.filter((a) => a.positionId === position.id).map((a) => a.kind)
        this.watched.set(position.id, this.begin(one, limits, raised))
        continue
      }
      known.installed = one
      if (known.limits === limits) continue
      known.watch.setLimits(position.limits)
      known.limits = limits
    }
    for (const id of this.watched.keys()) if (!installed.some((i) => i.position.id === id)) this.watched.delete(id)
    // After a restart all sensors are watched by what was stored before it.
    for (const { installationId, days } of await learnedDaysOf(
      this.db,
      fresh.map((i) => i.installation.id),
    )) {
      const one = [...this.watched.values()].find((w) => w.installed.installation.id === installationId)
      if (one) this.setUsual(one, days)
    }
    this.pairUp(
      installed,
      open.flatMap(({ kind, positionId, subject }) =>
        kind === REDUNDANT_DIFFER.kind ? `${positionId} ${subject}` : [],
      ),
    )
  }

  private begin(installed: Installed, limits: string, raised: readonly AlarmKind[]): Watched {
    const { position, device } = installed
    const { decimals } = modelOf(position.kind).shownScale(device.setting)
    const tolerance = shownError(installed, position.tolerance)
    const watch = new AlarmWatch(position.limits, {
      raised,
      step: 10 ** -decimals,
      tolerance,
      hourOfDay: (at) => this.hourOfDay(at),
    })
    const sd = tolerance / 2
    return { installed, watch, limits, isLearned: false, sd, shift: 0, usual: null, latest: null }
  }

  private pairUp(installed: readonly Installed[], raised: readonly string[]): void {
    const there = new Set<string>()
    installed.forEach((a, i) => {
      for (const b of installed.slice(i + 1)) {
        if (!areTwins(a, b)) continue
        const key = `${a.position.id} ${b.position.code}`
        there.add(key)
        const ids = [a.position.id, b.position.id] as const
        if (!this.pairs.has(key))
          this.pairs.set(key, { watch: new ApartWatch(raised.includes(key)), ids, subject: b.position.code, at: 0 })
      }
    })
    for (const key of this.pairs.keys()) if (!there.has(key)) this.pairs.delete(key)
  }

  /**
   * What a sensor reads now. What comes late, or from the future, is kept elsewhere; nobody is alarmed by it. Returns what
   * changed by it.
   */
  push(positionId: number, reading: WatchedReading): AlarmChange[] {
    const of = this.watched.get(positionId)
    const now = this.clock.now()
    if (!of || reading.at < now - LATE_MS || reading.at > now + AHEAD_MS) return []
    const changes = of.watch.push(reading)
    for (const change of changes) this.note(positionId, change)
    const { at, value, state } = reading
    of.latest = value !== null && (state === 'good' || state === 'typed') ? { at, value } : null
    for (const pair of this.pairs.values()) if (pair.ids.includes(positionId)) this.compare(pair, reading)
    return changes
  }

  /**
   * The newest reading was taken back: what it raised is over unless the one before it says the same.
   * @param shown what that one was; null where there is none, and nothing is known any more
   */
  judgeAnew(positionId: number, shown: number | null): void {
    const of = this.watched.get(positionId)
    if (!of) return
    const at = this.clock.now()
    const raised = of.watch.raised()
    if (shown === null) {
      this.watched.set(positionId, this.begin(of.installed, of.limits, []))
      for (const kind of raised) this.note(positionId, { kind, raised: false, at, value: null, limit: null })
      return
    }
    for (const change of of.watch.push({ at, value: shown, state: 'typed' })) this.note(positionId, change)
    // It was not read now: a twin is not held against it.
    of.latest = null
  }

  private compare(pair: Pair, { at, state }: WatchedReading): void {
    const [a, b] = pair.ids.map((id) => this.watched.get(id))
    if (state === 'in-visit') {
      pair.watch.begin()
      return
    }
    if (!a?.latest || !b?.latest || at - pair.at < MINUTE_MS) return
    if (Math.abs(a.latest.at - b.latest.at) > SAME_TIME_MS) return
    pair.at = at
    const own = a.installed.position.limits?.apart ?? b.installed.position.limits?.apart
    const limit = own ?? canExplain(a.sd, b.sd)
    if (!pair.watch.push(at, a.latest.value - b.latest.value, limit)) return
    this.note(
      pair.ids[0],
      { kind: REDUNDANT_DIFFER.kind, raised: pair.watch.isRaised, at, value: pair.watch.mean, limit },
      pair.subject,
    )
  }

  private note(positionId: number, { kind, raised, at, value, limit }: AlarmChange, subject: string | null = null) {
    const of = { kind, positionId, subject }
    this.writing = this.writing
      .then(async () => {
        if (raised) await raiseAlarm(this.db, { ...of, at, value, limit })
        else await endAlarm(this.db, of, at)
      })
      .catch((error) => this.log.error({ err: error }, 'alarm not written'))
  }

  /** Learns the typical readings of sensors that have new past days, for at most `TURN_MS`. */
  async learn(): Promise<void> {
    const began = performance.now()
    const today = dayStart(this.clock.now())
    const polls = await pollIntervals(this.db)
    const known = new Map((await learnedThrough(this.db)).map((row) => [row.installationId, row]))
    for (const one of this.watched.values()) {
      const of = known.get(one.installed.installation.id)
      const isCurrent = of?.through.getTime() === today && of.readAs === readAsOf(one.installed, polls)
      if (one.isLearned && isCurrent) continue
      this.setUsual(one, await learnDays(this.db, one.installed, polls, this.clock.now()))
      if (performance.now() - began > TURN_MS) return
    }
  }

  /** Returns the alarms that need to know what is usual, with the sensors of which too little is known yet. */
  learning(): LearningView[] {
    const all = [...this.watched.values()]
    return alarmTypes().flatMap(({ kind, name, learns }) => {
      if (!learns) return []
      const isMissing = ({ installed, usual }: Watched) =>
        (!learns.onlyConnected || installed.device.connectionId !== null) && !(usual && learns.isLearned(usual))
      const positions = all.filter(isMissing).map((w) => w.installed.position.code)
      return positions.length > 0 ? { kind, name, positions: positions.sort() } : []
    })
  }

  private setUsual(one: Watched, days: readonly DaySummary[]): void {
    one.usual = usualOf(days, this.hourOfDay)
    one.watch.setUsual(one.usual, one.shift)
    one.isLearned = true
  }

  /** How far each may err now, and how far its last adjustment moved what it shows. */
  async weigh(): Promise<void> {
    const now = this.clock.now()
    const { forecasts } = await computedSensors(this.db, now)
    for (const one of this.watched.values()) {
      const known = forecasts.get(one.installed.installation.id)
      if (!known) continue
      // What their difference says of them is no yardstick for their difference.
      const days = Math.max(0, (now - known.alone.from) / DAY_MS)
      one.sd = shownError(one.installed, expectedError(known.alone, days).sd)
      const shift = shownError(one.installed, shiftOf(known, now - USUAL_DAYS * DAY_MS))
      if (shift === one.shift) continue
      one.shift = shift
      if (one.usual) one.watch.setUsual(one.usual, shift)
    }
  }

  /** Resolves when all that changed is written. */
  async idle(): Promise<void> {
    await this.writing
  }
}

/** How far the adjustments since an instant moved what is displayed, in the unit of errors. */
const shiftOf = ({ observations }: SensorForecast, since: number): number =>
  observations
    .filter((o) => o.adjusted && o.at >= since && o.asFound !== null)
    .reduce((sum, o) => sum + Math.abs((o.asFound as number) - o.asLeft), 0)
