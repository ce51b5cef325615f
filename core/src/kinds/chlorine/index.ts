import type { Finding } from '../../calibration/finding.ts'
import { hypochlorousShare } from '../../chemistry/hypochlorousAcid.ts'
import { milligramModel } from '../../measurement/milligramModel.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { SAMPLE } from '../../procedures/sample.ts'
import { nullIfOutOfRange } from '../../quantities/outOfRange.ts'
import { exactly, inPercent, say } from '../../quantities/sentence.ts'
import { MILLIGRAM_SAMPLE, MILLIGRAM_SENSOR } from '../milligramSensor.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    chlorine: true
  }
}

/** Free chlorine: a membrane sensor that reads mg/L straight and is set by samples. */
export const CHLORINE: Kind = {
  ...MILLIGRAM_SENSOR,
  // A standard of free chlorine doesn't keep: it is set by a sample.
  procedures: [SAMPLE, ...MILLIGRAM_SENSOR.procedures.filter((p) => p !== SAMPLE)],
  id: 'chlorine',
  name: 'Free chlorine',
  short: 'Cl',
  alsoCalled: ['chlorine', 'free cl', 'cl2', 'fac'],
  model: milligramModel('Free chlorine', { highest: 50, usualDrift: { rateSd: 0.06 / 30, walk: 0.03 ** 2 / 30 } }),
  words: {
    sensor: 'sensor',
    immerse: 'Flow on and steady, no bubbles on the membrane.',
    clean: {
      title: 'Rinse the membrane cap softly',
      hint: 'Water only. Do not touch the membrane; a slack or stained one is replaced.',
    },
  },
  tripOrder: 5,
  rest: {
    minutes: 120,
    title: 'Let it run in the process',
    hint: 'Two hours with flow and voltage on, better a night, until the reading stands.',
  },
  sample: {
    ...MILLIGRAM_SAMPLE,
    floor: 0.1,
    oldestHours: 0.5,
    usualUncertainty: 0.05,
    waterPh: findingOfWaterPh,
  },
  unitSlip: () => null,
}

/** Below this share of hypochlorous acid a calibration holds for its own pH only (common practice, no source). */
const SMALL_SHARE = 0.25

function findingOfWaterPh(ph: number | null, temperature: number): Finding {
  const numbers: Finding['numbers'] = ph === null ? {} : { ph }
  const finding = { code: 'ph-decides', numbers } as const
  if (ph === null) {
    return {
      ...finding,
      severity: 'note',
      sentence: 'The pH of the water wasn’t entered.',
      advice:
        'Most chlorine sensors read hypochlorous acid, whose share depends on pH. Recalibrate when the pH changes.',
    }
  }
  const share = nullIfOutOfRange(() => hypochlorousShare(ph, temperature)) ?? hypochlorousShare(ph, 40)
  const sentence = say`At pH ${exactly(ph, '')}, ${inPercent(share, 0)} of the free chlorine is hypochlorous acid, the form most sensors read.`
  return share < SMALL_SHARE
    ? {
        ...finding,
        severity: 'warn',
        sentence,
        advice: 'Correct the pH first, then calibrate. Skip this if the sensor compensates for pH.',
      }
    : { ...finding, severity: 'note', sentence, advice: 'Recalibrate if the pH changes by more than 0.2.' }
}
