import {
  type ElectrodeTruth,
  NO_FAULTS,
  PhElectrodeSimulation,
  type RandomStream,
  type SettlingSignature,
} from '@frustum/core'

/** How a simulated electrode settles from one buffer into another, as its trace would have told. */
export function signatureOf(truth: ElectrodeTruth, random: RandomStream): SettlingSignature {
  const quiet = {
    ...truth,
    noise: 0.2 * truth.noise,
    step: 0.01,
    slowShare: truth.slowShare * (1 + 0.1 * random.normal()),
  }
  const electrode = new PhElectrodeSimulation(quiet, { ph: 7, temperature: 22.4 }, random, 0)
  electrode.faults = { ...NO_FAULTS }
  const before = electrode.read(0).millivolts
  electrode.dip({ ph: 9, temperature: 22.4 }, 0)
  const times = Array.from({ length: 33 }, (_, i) => 2 * 2 ** (i / 4))
  const values = times.map((t) => electrode.read(t).millivolts)
  const end = electrode.read(1e7).millivolts
  return { shares: values.map((v) => (v - end) / (before - end)), jump: before - end }
}
