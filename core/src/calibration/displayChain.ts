import type { PhCharacteristic } from '../electrode/phElectrode.ts'
import { type PhTable, phBufferValue } from '../standards/phBuffers.ts'
import { calibratePhTwoPoint, millivoltsBehindDisplay } from './phCalibration.ts'

/** One buffer as a device without millivolts shows it. */
export interface DisplayedPoint {
  bufferCode: string
  shown: number
  /** Half-width of its 95 % interval, pH. */
  uncertainty: number
  temperature: number
  lotTable?: PhTable
}

/** What happened to a display-only device, oldest first. */
export type DisplayEvent =
  | {
      kind: 'visit'
      /** Epoch ms. */
      at: number
      /** Displayed before any adjustment: one buffer or two. */
      points: readonly [DisplayedPoint] | readonly [DisplayedPoint, DisplayedPoint]
      /** Was the device adjusted to the buffers afterwards? */
      adjusted: boolean
    }
  /** `device-reset`: back to the maker's values, which are the ideal ones. `unrecorded-calibration`: nobody knows what is in force. */
  | { kind: 'device-reset' | 'unrecorded-calibration' | 'sensor-replaced'; at: number }

export interface ChainPoint {
  at: number
  /** mV at pH 7; the slope is null where only one buffer was shown. */
  zero: number
  zeroUncertainty: number
  slopeEfficiency: number | null
  slopeEfficiencyUncertainty: number | null
  /** Points of one number belong together; a break starts a new one. */
  section: number
  /** True where the calibration in force is not known: only changes within the section mean something. */
  relative: boolean
}

export interface ChainBreak {
  at: number
  reason: 'device-reset' | 'unrecorded-calibration' | 'sensor-replaced'
}

const IDEAL = { zero: 0, slopeEfficiency: 1 }

/**
 * Slope and zero over time from displayed values alone. Each displayed value is taken back through the calibration in
 * force to the millivolts it stood for; an adjustment makes what was found the calibration in force.
 * @param commissioned characteristic in force at the start; null when unknown, then all is relative to the ideal one
 * @throws RangeError for events that are not in order of time; OutOfRange for values no electrode gives
 */
export function displayChain(
  events: readonly DisplayEvent[],
  commissioned: PhCharacteristic | null,
): { points: ChainPoint[]; breaks: ChainBreak[] } {
  const points: ChainPoint[] = []
  const breaks: ChainBreak[] = []
  let activeCalibration: PhCharacteristic = commissioned ?? IDEAL
  let relative = commissioned === null
  let section = 0
  let last = Number.NEGATIVE_INFINITY
  for (const event of events) {
    if (event.at < last) throw new RangeError('The events of a chain must be in order of time.')
    last = event.at
    if (event.kind !== 'visit') {
      breaks.push({ at: event.at, reason: event.kind })
      section++
      // A new sensor on the same device leaves the calibration in force as it is.
      if (event.kind === 'sensor-replaced') continue
      activeCalibration = IDEAL
      relative = event.kind === 'unrecorded-calibration'
      continue
    }
    const found = read(event.points, activeCalibration)
    points.push({ at: event.at, ...found, section, relative })
    if (event.adjusted) {
      activeCalibration = {
        zero: found.zero,
        slopeEfficiency: found.slopeEfficiency ?? activeCalibration.slopeEfficiency,
      }
    }
  }
  return { points, breaks }
}

function read(shown: readonly DisplayedPoint[], activeCalibration: PhCharacteristic) {
  const perPh = Math.abs(
    millivoltsBehindDisplay(6, 25, activeCalibration) - millivoltsBehindDisplay(7, 25, activeCalibration),
  )
  const points = shown.map((p) => ({
    bufferCode: p.bufferCode,
    millivolts: millivoltsBehindDisplay(p.shown, p.temperature, activeCalibration),
    millivoltsUncertainty: p.uncertainty * perPh,
    temperature: p.temperature,
    ...(p.lotTable ? { lotTable: p.lotTable } : {}),
  }))
  const [first, second] = points
  if (!first) throw new RangeError('A visit shows at least one buffer.')
  if (!second) {
    const value = phBufferValue(first.bufferCode, first.temperature, first.lotTable)
    return {
      zero:
        activeCalibration.zero +
        first.millivolts -
        millivoltsBehindDisplay(value, first.temperature, activeCalibration),
      zeroUncertainty: first.millivoltsUncertainty,
      slopeEfficiency: null,
      slopeEfficiencyUncertainty: null,
    }
  }
  const { zero, zeroUncertainty, slopeEfficiency, slopeEfficiencyUncertainty } = calibratePhTwoPoint(first, second)
  return { zero, zeroUncertainty, slopeEfficiency, slopeEfficiencyUncertainty }
}
