import type { Finding } from '../calibration/finding.ts'
import { DAY_MS } from '../drift/observation.ts'
import { quantity, say } from '../quantities/sentence.ts'

/** What a sensor is compared with, or what stands in for it; for how long its own calibration holds, days (common practice, no source). */
export const INSTRUMENT_KINDS = {
  'hand-meter': { label: 'hand meter', freshDays: 30 },
  thermometer: { label: 'thermometer', freshDays: 365 },
  kit: { label: 'kit or photometer', freshDays: 365 },
  simulator: { label: 'simulator', freshDays: 365 },
} as const

export type InstrumentKind = keyof typeof INSTRUMENT_KINDS

/** An instrument as it was when something was read with it. */
export interface Instrument {
  kind: InstrumentKind
  name: string
  /** Empty where it has none. */
  serial: string
  /** Epoch ms; of a kit, when it was opened or its reagents were checked. Null where nobody noted it. */
  calibratedAt: number | null
  /** Half-width of the 95 % interval of what it reads, in `unit`; null where nobody states one. */
  uncertainty: number | null
  unit: string
}

/**
 * Whether an instrument may still be held against a sensor.
 * @param at when it was used, epoch ms
 * @returns null as long as its own calibration is fresh
 */
export function findStaleInstrument(
  { kind, name, calibratedAt }: Pick<Instrument, 'kind' | 'name' | 'calibratedAt'>,
  at: number,
): Finding | null {
  const { label, freshDays } = INSTRUMENT_KINDS[kind]
  const advice = say`A ${label} is believed for ${quantity(freshDays, 'days', 0)} after its own check. Check it in a fresh standard, or against another, before anything is adjusted by it.`
  if (calibratedAt === null) {
    return {
      code: 'instrument-stale',
      severity: 'note',
      sentence: `Nobody has noted when ${name} was calibrated.`,
      advice,
      numbers: {},
    }
  }
  const days = Math.round((at - calibratedAt) / DAY_MS)
  if (days <= freshDays) return null
  return {
    code: 'instrument-stale',
    severity: 'warn',
    sentence: say`${name} was calibrated ${quantity(days, 'days', 0)} ago.`,
    advice,
    numbers: { days },
  }
}
