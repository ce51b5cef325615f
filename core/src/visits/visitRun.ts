import { ownStandardOf, procedureOf, takeOwnStandards } from '../kinds/index.ts'
import type { Instrument } from '../measurement/instrument.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import type { SensorReading } from '../measurement/sensorReading.ts'
import type { Setup } from '../procedures/setup.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import { entryOf, keyedInEntry, keyPressedEntry, requireStep, resultToApply, type VisitCommand } from './commands.ts'
import { StepSession } from './stepSession.ts'
import { type TypedReading, temperatureBeside, typedLine } from './typing.ts'
import type { VisitLive } from './visitLive.ts'
import { type Progress, type RecordLine, reduceVisit, type VisitBasis, type VisitEntry } from './visitReducer.ts'
import { type BenchView, keyedCalibration, viewOfProgress } from './visitView.ts'

/** Makes the standards of a visit known that this program doesn't have, such as those of another site. */
export function knowStandardsOf({ standards }: Setup): void {
  const theirs = Object.values(standards).flatMap(({ own }) => (own && !ownStandardOf(own.code) ? [own] : []))
  takeOwnStandards(theirs.map((own) => ({ ...own, archived: true })))
}

interface SessionAt extends Pick<VisitBasis, 'procedure'> {
  progress: Progress
  /** Bottles that are poured from now, where they changed since the visit began. */
  standards?: Setup['standards']
  /** How the sensor settled at earlier visits. */
  past: readonly SettlingSignature[]
  /** Nothing more happens in a closed visit. */
  isClosed?: boolean
  /** Epoch ms. */
  now: number
  rate?: number
}

/** The live side of the step at hand, with what was typed for it so far. */
export function stepSessionAt({ procedure, progress, standards, past, isClosed, now, rate }: SessionAt): StepSession {
  const { evidence } = progress
  const session = new StepSession(
    {
      step: isClosed ? null : progress.current,
      procedure,
      evidence: standards ? { ...evidence, setup: { ...evidence.setup, standards } } : evidence,
      past,
    },
    now,
    rate,
  )
  for (const typed of progress.typed) session.takeTyped(typed, now)
  return session
}

/** Changes whenever the live side has to start over. */
export function sessionKey({ current, typed, evidence }: Progress): string {
  const key = current?.key
  return `${key}:${typed.length}:${evidence.applied ? 'applied' : ''}:${key ? (evidence.attempts[key] ?? 0) : ''}`
}

/** Everything that a visit needs to run somewhere else, as JSON. */
export interface VisitSnapshot {
  /** Its id, see procedureOf. */
  procedure: string
  setup: Setup
  /** Epoch ms. */
  startedAt: number
  lines: readonly RecordLine[]
  /** How the sensor settled at earlier visits. */
  past: readonly SettlingSignature[]
  /** Thermometers of the site that a temperature may come from. */
  thermometers: readonly Instrument[]
}

interface Running extends Partial<Pick<VisitSnapshot, 'lines' | 'past' | 'thermometers'>> {
  /** Seconds of its time in one second of the device's, above 0. */
  rate?: number
}

/**
 * A visit that runs by itself: from what it was set up with, its record, and what is read and done, to what is shown and
 * recorded. It knows no clock: each call says when it is, in epoch ms.
 */
export class VisitRun {
  private readonly record: RecordLine[]
  private played: Progress
  private live: StepSession
  private liveKey: string

  constructor(
    private readonly basis: VisitBasis,
    private readonly running: Running,
    now: number,
  ) {
    this.record = [...(running.lines ?? [])]
    this.played = this.play()
    this.live = this.sessionNow(now)
    this.liveKey = sessionKey(this.played)
  }

  /**
   * Goes on with a visit from its snapshot.
   * @param now epoch ms
   * @throws Error for a procedure that doesn't exist
   */
  static from({ procedure, setup, startedAt, ...running }: VisitSnapshot, now: number): VisitRun {
    knowStandardsOf(setup)
    return new VisitRun({ procedure: procedureOf(procedure), setup, startedAt }, running, now)
  }

  get lines(): readonly RecordLine[] {
    return this.record
  }

  get progress(): Progress {
    return this.played
  }

  /** What the Bench shows of the record. */
  get view(): BenchView {
    return viewOfProgress(this.basis.procedure, this.played)
  }

  /** Takes a reading of the device. */
  read(reading: SensorReading, now: number): void {
    this.live.take(reading, now)
  }

  /** What the Bench shows of the reading now. */
  liveAt(
    now: number,
    { blindSince = null, wholeTrace = false }: { blindSince?: number | null; wholeTrace?: boolean } = {},
  ): VisitLive {
    return this.live.message({ now, blindSince, revision: this.record.length, wholeTrace })
  }

  /** Does something in the visit. @throws VisitRefusal; nothing is recorded then */
  act(command: VisitCommand, now: number): VisitEntry {
    return this.append(entryOf({ ...this.basis, progress: this.played }, command), now)
  }

  /** Captures the reading of the step at hand. @throws VisitRefusal */
  capture(
    step: string,
    now: number,
    { earlyReason, temperature, stale }: { earlyReason?: string; temperature?: string; stale?: boolean } = {},
  ): VisitEntry {
    requireStep(this, step)
    if (temperature) this.live.warmTo(temperatureBeside(this.played, temperature))
    return this.append({ type: 'captured', step, reading: this.live.capture({ now, earlyReason, stale }) }, now)
  }

  /** Adds a reading that was read by eye. @throws VisitRefusal */
  type(step: string, typed: TypedReading, now: number): VisitEntry {
    requireStep(this, step)
    const line = typedLine(this.played, typed, this.running.thermometers ?? [])
    return this.append({ type: 'typed', step, ...line }, now)
  }

  /** The numbers that are given to the device. @throws VisitRefusal where there are none */
  get toApply(): CalibrationParameters {
    return keyedCalibration(resultToApply({ ...this.basis, progress: this.played }))
  }

  /** Records that the numbers were keyed in. @throws VisitRefusal */
  keyIn(shownAfter: string, now: number, why?: string): VisitEntry {
    requireStep(this, 'apply')
    const visit = { ...this.basis, progress: this.played }
    return this.append(keyedInEntry(visit, { held: null, shownAfter, why }), now)
  }

  /** Adds a line to the record as it is. */
  append(entry: VisitEntry, now: number): VisitEntry {
    const calibrates = entry.type === 'filled' && this.played.current?.calibrates
    const byKey = calibrates ? keyPressedEntry(this.basis, this.record, entry, { held: null, now }) : null
    this.record.push({ at: now, entry }, ...(byKey ? [{ at: now, entry: byKey }] : []))
    this.played = this.play()
    const key = sessionKey(this.played)
    if (key !== this.liveKey) {
      this.liveKey = key
      this.live = this.sessionNow(now)
    }
    return entry
  }

  private play(): Progress {
    const { procedure, setup, startedAt } = this.basis
    return reduceVisit(procedure, setup, startedAt, this.record)
  }

  private sessionNow(now: number): StepSession {
    const { past = [], rate = 1 } = this.running
    return stepSessionAt({ ...this.basis, progress: this.played, past, now, rate })
  }
}
