import { requireWithin } from '../quantities/outOfRange.ts'
import { exactly, quantity, say } from '../quantities/sentence.ts'
import { median, scaledMad } from '../statistics/median.ts'
import type { Finding } from './finding.ts'

/** What is read: the slips that can happen differ. */
export type SlipKind = 'amount' | 'conductivity' | 'nitrate' | 'ammonium' | 'temperature'

/** Slips of unit that happen, as what the reading then is of the right one. */
const SLIPS: readonly { factor: number; name: string; of: readonly SlipKind[] }[] = [
  { factor: 1000, name: 'µS/cm for mS/cm, or mg for g', of: ['amount', 'conductivity', 'nitrate', 'ammonium'] },
  { factor: 10, name: 'CF for mS/cm', of: ['amount', 'conductivity'] },
  { factor: 4.4266, name: 'nitrate for nitrate-N', of: ['amount', 'nitrate'] },
  { factor: 1.2878, name: 'ammonium for ammonium-N', of: ['amount', 'ammonium'] },
  { factor: 1.4, name: 'ppm 700 for ppm 500', of: ['amount', 'conductivity'] },
]

/** A reading this near to a slip's value is taken for it, 1. */
const NEAR = 0.03
/** As long as a reading is this near to what is expected no slip is looked for, 1. */
const FITS = 0.15

/**
 * Whether a reading is the expected value in another unit.
 * @param kind what is read; `amount` is any concentration or conductivity
 * @returns null when it fits, or when no slip explains it
 */
export function findUnitSlip(reading: number, expected: number, kind: SlipKind): Finding | null {
  requireWithin('Reading', reading, -1e9, 1e9)
  requireWithin('Expected value', expected, -1e9, 1e9)
  if (kind === 'temperature') {
    const fahrenheit = expected * 1.8 + 32
    if (Math.abs(reading - expected) < 5 || Math.abs(reading - fahrenheit) > 3) return null
    return slip(reading, expected, 1.8, '°F for °C')
  }
  if (!(expected > 0 && reading > 0) || Math.abs(reading / expected - 1) < FITS) return null
  for (const { factor, name } of SLIPS.filter((s) => s.of.includes(kind))) {
    for (const f of [factor, 1 / factor]) {
      if (Math.abs(reading / expected / f - 1) < NEAR) return slip(reading, expected, f, name)
    }
  }
  return null
}

function slip(reading: number, expected: number, factor: number, name: string): Finding {
  return {
    code: 'unit-slip',
    severity: 'stop',
    sentence: say`${format(reading)} is ${format(expected)} in another unit: ${name}${factor < 1 ? ', the other way round' : ''}.`,
    advice: 'Look at the unit on the display and in the setting before anything is adjusted.',
    numbers: { reading, expected, factor },
  }
}

const format = (value: number, unit = '') => exactly(Number(value.toPrecision(4)), unit)

/**
 * Whether a value taken in one standard is still that of the standard before.
 * @param spread what the standard before may differ from its reading, same unit
 */
export function findLeftOver(reading: number, before: number, expected: number, spread: number): Finding | null {
  if (Math.abs(reading - before) > spread || Math.abs(expected - before) <= 3 * spread) return null
  if (Math.abs(reading - expected) <= spread) return null
  return {
    code: 'left-over-value',
    severity: 'stop',
    sentence: say`The reading, ${format(reading)}, is still the one of the standard before.`,
    advice: 'Is the sensor in the new cup, and does the display still hold the last value?',
    numbers: { reading, before, expected },
  }
}

/** So many visits make a history. */
const HISTORY = 4
/** A response this much slower than usual, and beyond its scatter, is worth a word. */
const SLOWER = 2.5

/**
 * Whether an electrode took far longer to settle than at its own last visits.
 * @param seconds to settle now @param history seconds at earlier visits in the same kind of step
 */
export function findSlowResponse(seconds: number, history: readonly number[]): Finding | null {
  requireWithin('Settling time', seconds, 0, 1e5, 's')
  if (history.length < HISTORY) return null
  const usual = median(history)
  if (seconds < SLOWER * usual || seconds < usual + 3 * scaledMad(history)) return null
  return {
    code: 'slow-response',
    severity: 'warn',
    sentence: say`It took ${quantity(seconds, 's', 0)} to settle; ${quantity(usual, 's', 0)} is usual for this sensor.`,
    advice:
      'Clean the glass and the junction and take the point again. If it stays slow, the glass or the junction is going.',
    numbers: { seconds, usual },
  }
}

/**
 * Whether a sensor answers at all: two different solutions that read alike.
 * @param step difference of the two readings @param wanted what it should be, same unit
 */
export function findNoResponse(step: number, wanted: number): Finding | null {
  if (Math.abs(step) >= 0.1 * Math.abs(wanted)) return null
  return {
    code: 'no-response',
    severity: 'stop',
    sentence: say`Between the standards the reading moved ${format(step)}; expected ${format(wanted)}.`,
    advice: 'Cracked, unplugged or dry: look at the tip and the plug.',
    numbers: { step, wanted },
  }
}

/** A change is only named when it is beyond what drift explains by this many of its uncertainties (95 % half-widths). */
const BEYOND_DRIFT = 1.5

/**
 * Whether a figure of a sensor changed since its last calibration by more than its own drift explains.
 * @param change found, and `driftPerDay` seen so far, in the figure's unit
 * @param uncertainty half-width of the 95 % interval of the change, drift's own scatter included
 * @param figure what it is, with its unit for the sentence: { name: 'The cell factor', unit: '%' }
 */
export function findChangeBeyondDrift(
  change: number,
  driftPerDay: number,
  days: number,
  uncertainty: number,
  figure: { name: string; unit: string },
): Finding | null {
  requireWithin('Days since the last calibration', days, 0, 1e5)
  requireWithin('Uncertainty of the change', uncertainty, 1e-12, 1e9)
  const explained = driftPerDay * days
  requireWithin('Change', change - explained, -1e9, 1e9)
  if (Math.abs(change - explained) <= BEYOND_DRIFT * uncertainty) return null
  return {
    code: 'change-larger-than-drift',
    severity: 'warn',
    sentence: say`${figure.name} changed by ${format(change, figure.unit)} since last time; its drift explains ${format(explained, figure.unit)}.`,
    advice: 'A standard may be off, or something happened in between. Repeat in fresh standard before you adjust.',
    numbers: { change, explained, uncertainty },
  }
}

/** A thousandfold is told from what any water does when it is this near to it, as a factor (common practice, no source). */
const NEAR_THOUSAND = 3

/**
 * Whether a conductivity was typed in µS/cm where the display is in mS/cm, or the other way round.
 * @param usual on the same display, above 0
 * @returns the unit that was typed instead; null where nothing speaks for a slip
 * @example findThousandfold('mS/cm', 1410, 1.4) // 'µS/cm'
 */
export function findThousandfold(unit: string, typed: number, usual: number): 'µS/cm' | 'mS/cm' | null {
  const [times, other] = unit === 'mS/cm' ? [1000, 'µS/cm' as const] : [1 / 1000, 'mS/cm' as const]
  if ((unit !== 'mS/cm' && unit !== 'µS/cm') || !(usual > 0 && typed > 0)) return null
  const ratio = typed / usual / times
  return ratio < NEAR_THOUSAND && ratio > 1 / NEAR_THOUSAND ? other : null
}

/** Specific gravities of salt water, and salinities that no display of gravity shows (common practice, no source). */
const GRAVITIES = { low: 1.005, high: 1.035 }
const SALINITIES = { low: 5, high: 45 }
/** From this conductivity on water is salty enough for its salinity to be no number near one, uS/cm. */
const SALTY = 10_000

/**
 * Whether a number typed for a display of salinity is a specific gravity, or the other way round.
 * @param processValue of the water, uS/cm: in weak water a salinity may be near one
 * @returns what was typed instead; null where nothing speaks for a slip
 * @example findOtherSeaScale('salinity', 1.026, 52_000) // 'specific gravity'
 */
export function findOtherSeaScale(
  display: string | undefined,
  typed: number,
  processValue: number,
): 'salinity' | 'specific gravity' | null {
  const within = ({ low, high }: { low: number; high: number }) => typed >= low && typed <= high
  if (display === 'salinity' && processValue >= SALTY && within(GRAVITIES)) return 'specific gravity'
  return display === 'specific gravity' && within(SALINITIES) ? 'salinity' : null
}
