import type { Finding } from '../calibration/finding.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import { render } from '../quantities/render.ts'
import type { StabilityOpinion } from '../stability/opinion.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import { VisitRefusal } from './refusal.ts'
import type { StepReading } from './stepReading.ts'
import { type StepSetting, standardOfStep, standardValueAt } from './stepSetting.ts'

/** Points of the trace that a record keeps. */
const KEPT_POINTS = 80
/** A frozen reading is uncertain by so many times its noise, and at least by this share of it. */
const FROZEN = { noise: 3, share: 1e-4 } as const

/** What is known of a reading at the moment at which it is captured. */
export interface Capturable {
  setting: StepSetting
  latest: StepReading | null
  opinion: StabilityOpinion | null
  /** The end of the reading as far as it is known, in units of the signal. */
  end: { signal: number; noise: number; uncertainty: number } | null
  finding: Finding | null
  isManual: boolean
  /** Whether it may be kept without a reason. */
  isTaken: boolean
  lacksTemperature: boolean
  /** The connection is late, so that its last reading is of another moment. */
  isStale: boolean
  /** Why it is captured although it isn't stable. */
  earlyReason?: string | undefined
  /** Largest uncertainty to record, in units of the signal. */
  mostUncertain: (signal: number, temperature: number) => number
  source: CapturedReading['source']
  trace: readonly [number, number][]
  signature: SettlingSignature | null
}

type Complete = Capturable & {
  latest: StepReading
  opinion: StabilityOpinion
  end: NonNullable<Capturable['end']>
}

/**
 * The reading to keep.
 * @throws VisitRefusal when there is none, when it is stale, or when it isn't stable and no reason is given
 */
export function captureReading(asked: Capturable): CapturedReading {
  checkReading(asked)
  const { setting, latest, opinion, end, isManual, earlyReason } = asked
  const chosen = standardOfStep(setting)
  const value = standardValueAt(setting, latest.temperature)
  if (chosen && value === null) {
    throw new VisitRefusal(`At ${latest.temperature.toFixed(1)} °C this standard has no known value.`, {
      because: 'state',
      code: 'temperature-outside',
      hint: 'Bring it to room temperature, or check the temperature input.',
    })
  }
  const freezes = setting.step?.freezes === true
  const signal = freezes ? latest.signal : end.signal
  const isFrozen = freezes && !isManual
  const uncertainty = isFrozen ? Math.max(FROZEN.noise * end.noise, FROZEN.share * Math.abs(signal)) : end.uncertainty
  return {
    source: asked.source,
    signal,
    signalUncertainty: Math.min(asked.mostUncertain(signal, latest.temperature), uncertainty),
    // Manual readings are too far apart to show their scatter.
    ...(isManual ? {} : { noise: end.noise }),
    ...(latest.resistances ? { resistances: latest.resistances } : {}),
    temperature: latest.temperature,
    temperatureFrom: latest.temperatureFrom ?? { from: 'device' },
    shown: latest.shown,
    stability: {
      state: opinion.state,
      reason: opinion.reason,
      seconds: Math.round(opinion.elapsed),
      ...(opinion.knownAfter === undefined ? {} : { knownAfter: Math.round(opinion.knownAfter) }),
      confidence: Math.round(opinion.confidence),
    },
    ...(earlyReason ? { earlyReason } : {}),
    trace: thinned(asked.trace, KEPT_POINTS),
    signature: asked.signature,
    ...(chosen && value !== null
      ? {
          standard: {
            code: chosen.code,
            value,
            lot: chosen.lot?.lot ?? null,
            expired: chosen.lot?.expired ?? false,
            openTooLong: chosen.lot?.openTooLong ?? false,
            daysOver: chosen.lot?.daysOver ?? 0,
            ...(chosen.lotTable ? { lotTable: chosen.lotTable } : {}),
          },
        }
      : {}),
  }
}

function checkReading(asked: Capturable): asserts asked is Complete {
  const { setting, latest, opinion, end, finding, isManual, earlyReason } = asked
  if (!latest || !opinion || !end || !setting.step) {
    throw new VisitRefusal('There is no reading yet.', {
      because: 'state',
      code: 'no-reading',
      hint: setting.evidence.setup.linked ? 'Wait for the device to answer.' : 'Type what the device shows.',
    })
  }
  if (!isManual && asked.isStale) {
    throw new VisitRefusal('The device has not answered for a while; its last value is too old to keep.', {
      because: 'state',
      code: 'blind',
      detail: 'All points taken so far are kept.',
      hint: 'Check the connection. The step continues when the device answers.',
    })
  }
  const stopped = finding?.severity === 'stop'
  if ((!asked.isTaken || stopped) && !earlyReason) {
    const waits =
      opinion.state === 'known' ? 'Its end is known, but not yet that it rests.' : 'The reading is not stable yet.'
    throw new VisitRefusal(stopped ? render(finding.sentence) : waits, {
      because: 'state',
      code: 'not-stable',
      hint: stopped ? render(finding.advice) : 'Wait, or take it now with a reason.',
    })
  }
  if (asked.lacksTemperature && !isManual) {
    throw new VisitRefusal('Nobody has said yet how warm it is.', {
      because: 'state',
      code: 'temperature-needed',
      hint: 'Type the temperature beside the reading, then capture it.',
      fields: { temperature: 'Type the temperature of what it stands in.' },
    })
  }
}

function thinned(trace: readonly [number, number][], most: number): [number, number][] {
  if (trace.length <= most) return [...trace]
  return Array.from(
    { length: most },
    (_, i) => trace[Math.round((i * (trace.length - 1)) / (most - 1))] as [number, number],
  )
}
