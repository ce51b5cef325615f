import { IONS, toMolar } from '../../../core/src/chemistry/ions.ts'
import { referencePotential } from '../../../core/src/electrode/referenceElectrodes.ts'
import type { SensorKind } from '../../../core/src/measurement/sensorKind.ts'

import type { RandomStream } from '../../../core/src/statistics/random.ts'
import { type ElectrodeTruth, PhElectrodeSimulation } from './phElectrodeSimulation.ts'
import type { SensorFaults } from './sensorSimulation.ts'
import {
  ConductivitySensorSimulation,
  type ConductivityTruth,
  IonElectrodeSimulation,
  type IonTruth,
  OrpSensorSimulation,
  type OrpTruth,
  PlainSensorSimulation,
  type PlainTruth,
} from './sensors.ts'

/** What a sensor is in, in the core unit of its kind: pH, mV against its own reference, uS/cm there, mg/L, degC. */
export interface Bath {
  value: number
  temperature: number
}

/** The state of a simulated sensor of any kind: what only the simulator knows. */
export type SensorTruth =
  | { kind: 'ph'; truth: ElectrodeTruth }
  | { kind: 'orp'; truth: OrpTruth }
  | { kind: 'conductivity'; truth: ConductivityTruth }
  | { kind: 'ion'; ion: keyof typeof IONS; truth: IonTruth }
  | { kind: 'chlorine' | 'nitrate-optical' | 'temperature'; truth: PlainTruth }

/** A simulated sensor of any kind, by the same handles. Time is the caller's, in seconds. */
export interface SimulatedSensor {
  kind: SensorKind
  faults: SensorFaults
  dip(bath: Bath, now: number, rinsed?: boolean): void
  /** The water itself moves on, with the sensor in it. */
  follow(bath: Bath): void
  /** Signal and temperature as the transmitter has them. */
  read(now: number): { signal: number; temperature: number }
  /** Wipes off what cleaning takes off. */
  wipe(): void
  /** A cell that is held in air still wet. */
  setWet(wet: boolean): void
}

const nothing = () => undefined

/** @param bath what it rests in at the start */
export function simulateSensor(state: SensorTruth, bath: Bath, random: RandomStream, now = 0): SimulatedSensor {
  switch (state.kind) {
    case 'ph': {
      const to = (b: Bath) => ({ ph: b.value, temperature: b.temperature })
      const sim = new PhElectrodeSimulation(state.truth, to(bath), random, now)
      return handles(
        sim,
        'ph',
        to,
        (r: { millivolts: number }) => r.millivolts,
        () => sim.wipe(),
      )
    }
    case 'orp': {
      const to = (b: Bath) => ({
        eh: b.value + referencePotential(state.truth.reference, Math.min(40, Math.max(10, b.temperature))),
        temperature: b.temperature,
      })
      const sim = new OrpSensorSimulation(state.truth, to(bath), random, now)
      return handles(sim, 'orp', to, (r: { millivolts: number }) => r.millivolts, nothing)
    }
    case 'conductivity': {
      const to = (b: Bath) => ({ conductivity: b.value, temperature: b.temperature })
      const sim = new ConductivitySensorSimulation(state.truth, to(bath), random, now)
      return {
        ...handles(
          sim,
          'conductivity',
          to,
          (r: { conductivity: number }) => r.conductivity,
          () => sim.wipe(),
        ),
        get faults() {
          return sim.faults
        },
        set faults(f) {
          sim.faults = f
        },
        setWet: (wet) => {
          sim.truth = { ...sim.truth, wet }
        },
      }
    }
    case 'ion': {
      const ion = IONS[state.ion]
      const to = (b: Bath) => ({ activity: Math.max(1e-8, toMolar(b.value, ion)), temperature: b.temperature })
      const sim = new IonElectrodeSimulation(state.truth, to(bath), random, now)
      return handles(sim, 'ion', to, (r: { millivolts: number }) => r.millivolts, nothing)
    }
    default: {
      const sim = new PlainSensorSimulation(state.truth, bath, random, now)
      return handles(
        sim,
        state.kind,
        (b) => b,
        (r: { value: number }) => r.value,
        nothing,
      )
    }
  }
}

interface Simulation<S, R> {
  faults: SensorFaults
  dip(solution: S, now: number, rinsed?: boolean): void
  follow(solution: S): void
  read(now: number): R
}

function handles<S, R extends { temperature: number }>(
  sim: Simulation<S, R>,
  kind: SensorKind,
  to: (bath: Bath) => S,
  signal: (reading: R) => number,
  wipe: () => void,
): SimulatedSensor {
  return {
    kind,
    get faults() {
      return sim.faults
    },
    set faults(faults) {
      sim.faults = faults
    },
    dip: (bath, now, rinsed = true) => sim.dip(to(bath), now, rinsed),
    follow: (bath) => sim.follow(to(bath)),
    read: (now) => {
      const reading = sim.read(now)
      return { signal: signal(reading), temperature: reading.temperature }
    },
    wipe,
    setWet: nothing,
  }
}
