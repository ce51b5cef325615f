import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { SensorReading } from '../measurement/sensorReading.ts'
import type { TemperatureSource } from '../measurement/temperatureSource.ts'
import type { JudgedScale } from './judgedScale.ts'
import type { StepSetting } from './stepSetting.ts'
import { assumedTemperature, ROOM_TEMPERATURE } from './typing.ts'
import type { Progress } from './visitReducer.ts'

/** As read over a connection or entered, with what was worked out of the rest; the display is null where nobody read it. */
export interface StepReading {
  at: number
  signal: number
  temperature: number
  temperatureFrom?: TemperatureSource
  shown: number | null
  resistances?: SensorReading['resistances']
  /** The temperature is neither measured nor known otherwise: that of a room is assumed, to show the reading. */
  guessed?: boolean
  /** What of it came over the connection. */
  source?: CapturedReading['source']
}

/** The temperature of a step that was entered because the connection doesn't carry it. */
export interface EnteredTemperature {
  value: number
  from: 'device'
}

/** Works out what a device doesn't send from what it sends; null where that isn't enough. */
export function completeReading(
  { signal, temperature, temperatureFrom, ...read }: SensorReading,
  { step, evidence }: StepSetting,
  scale: JudgedScale,
  entered: EnteredTemperature | null,
): StepReading | null {
  const fixed = evidence.setup.device.fixedTemperature
  const assumed =
    fixed !== undefined
      ? ({ value: fixed, from: 'fixed' } as const)
      : (entered ?? (step && assumedTemperature(evidence, step)))
  const at = temperature ?? assumed?.value ?? ROOM_TEMPERATURE
  const bare = signal ?? (read.shown === null ? null : scale.signalBehind(read.shown, at))
  if (bare === null || !Number.isFinite(bare)) return null
  const from = temperatureFrom ?? (temperature === null && assumed ? { from: assumed.from } : null)
  return {
    ...read,
    signal: bare,
    temperature: at,
    source: signal === null ? 'line-display' : read.shown === null ? 'line-signal' : 'line',
    ...(from ? { temperatureFrom: from } : {}),
    ...(temperature === null && !assumed ? { guessed: true } : {}),
  }
}

/** The same reading at the temperature that was entered for it. */
export function withTemperature(
  { guessed: _, ...reading }: StepReading,
  entered: EnteredTemperature,
  scale: JudgedScale,
): StepReading {
  const isWorkedOut = reading.source === 'line-display' && reading.shown !== null
  const signal = isWorkedOut ? scale.signalBehind(reading.shown as number, entered.value) : reading.signal
  return {
    ...reading,
    signal: signal ?? reading.signal,
    temperature: entered.value,
    temperatureFrom: { from: entered.from },
  }
}

/** A manual reading, as the device displays it; null out of the range of the device. */
export function manualReading(
  { at, value, shown, temperature, temperatureFrom }: Progress['typed'][number],
  scale: JudgedScale,
): StepReading | null {
  const signal = scale.showsSignal ? value : scale.signalBehind(value, temperature)
  if (signal === null || !Number.isFinite(signal)) return null
  return {
    at,
    signal,
    temperature,
    shown: scale.showsSignal ? (shown ?? null) : value,
    ...(temperatureFrom ? { temperatureFrom } : {}),
  }
}
