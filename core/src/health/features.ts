import { millivolts, type Sentence, say } from '../quantities/sentence.ts'

/** What is looked at in a diagnosis, and the words in which each can be answered. The first word is that of a sound sensor. */
export const FEATURES = {
  zeroCourse: ['steady', 'creeping', 'running', 'jumped'],
  referenceGoes: ['down', 'up'],
  slopeLevel: ['sound', 'ageing', 'low', 'none', 'high'],
  slopeCourse: ['steady', 'falling', 'jumped', 'comes and goes'],
  settling: ['usual', 'slow', 'very slow'],
  slowSince: ['this visit', 'some visits'],
  noise: ['usual', 'restless this time', 'restless for long'],
  noiseApart: ['alike', 'one alone'],
  whatMoved: ['every reading', 'one standard', 'one reading'],
  hysteresis: ['returns', 'lags'],
  cleaning: ['changes nothing', 'helps'],
  cleaningMoved: ['away from the process', 'towards it'],
  beakerAndTank: ['agree', 'only the tank is wrong', 'only the standards are off'],
  tankGoes: ['down', 'up'],
  tankNoise: ['as in the standards', 'restless there'],
  temperature: ['agrees', 'is wrong'],
  standards: ['consistent', 'one disagrees'],
  before: ['nothing', 'an upset', 'it stood dry', 'a power failure'],
  sharedShift: ['none', 'its own', 'all on the body'],
  electrolyte: ['young', 'old'],
  junctionResistance: ['usual', 'high'],
  glassResistance: ['usual', 'low', 'high'],
  airZero: ['near zero', 'not zero'],
  cellReads: ['right', 'low', 'high'],
  deviceNumbers: ['as left', 'changed'],
  stirring: ['changes nothing', 'moves it'],
  tapping: ['changes nothing', 'moves it'],
  afterSoak: ['stays', 'comes back'],
  afterRefill: ['stays', 'comes back'],
  freshStandard: ['reads the same', 'reads otherwise'],
  unplugging: ['changes nothing', 'calms it'],
} as const

export type Feature = keyof typeof FEATURES
export type Answer<F extends Feature = Feature> = (typeof FEATURES)[F][number]
/** How well each answer of a feature fits what was seen; only their ratios count, and one left out does not fit. */
export type Fit<F extends Feature> = { [A in Answer<F>]?: number }
/** What is known; whatever is not known is left out and counts neither way. */
export type DiagnosticEvidence = { [F in Feature]?: Answer<F> } & {
  /**
   * How well the figures fit each answer of a feature that they gave, in the order of its answers, the best as 1: a
   * figure between two words speaks for both. Answers without it were found on purpose and hold as they are.
   */
  fits?: { [F in Feature]?: readonly number[] }
}

export const FEATURE_WORDS: Record<Feature, string> = {
  zeroCourse: 'Zero',
  referenceGoes: 'Potential of the reference goes',
  slopeLevel: 'Slope',
  slopeCourse: 'Course of the slope',
  settling: 'Settling',
  slowSince: 'Slow since',
  noise: 'Noise in the standard',
  noiseApart: 'Noise from standard to standard',
  whatMoved: 'In the standards moved',
  hysteresis: 'Back in the first standard it',
  cleaning: 'Cleaning',
  cleaningMoved: 'Cleaning moved it',
  beakerAndTank: 'Beaker and tank',
  tankGoes: 'In the tank it went',
  tankNoise: 'Noise in the tank',
  temperature: 'Its temperature',
  standards: 'The standards',
  before: 'Before it began',
  sharedShift: 'Shift on the body',
  electrolyte: 'Electrolyte',
  junctionResistance: 'Junction resistance',
  glassResistance: 'Glass resistance',
  airZero: 'Zero in dry air',
  cellReads: 'The cell reads',
  deviceNumbers: 'The device’s numbers',
  stirring: 'Stirring',
  tapping: 'Tapping',
  afterSoak: 'After a soak it',
  afterRefill: 'After a refill it',
  freshStandard: 'A fresh standard',
  unplugging: 'Unplugging other equipment',
}

/** A test that answers a feature on purpose. */
export interface DiagnosticTest {
  feature: Feature
  /** What it can come out as, where that is not every answer of the feature. */
  answers?: readonly Answer[]
  instruction: Sentence
  minutes: number
}

export const TESTS: readonly DiagnosticTest[] = [
  {
    feature: 'stirring',
    instruction: say`Hold it in a standard and stir, then stop. Does the reading move by more than ${millivolts(2, 0)}?`,
    minutes: 5,
  },
  {
    feature: 'tapping',
    instruction: 'Tap the body and turn the tip upwards once. Does the reading move and stay there?',
    minutes: 2,
  },
  {
    feature: 'afterSoak',
    instruction: 'Soak it for 1 h in fresh storage solution and read the first standard again. Does it come back?',
    minutes: 70,
  },
  {
    feature: 'afterRefill',
    instruction: 'Refill it with fresh KCl, wait 1 h, and read the first standard again. Does it come back?',
    minutes: 75,
  },
  {
    feature: 'freshStandard',
    instruction: 'Pour the same standard from another lot. Does it read otherwise?',
    minutes: 10,
  },
  {
    feature: 'hysteresis',
    instruction: say`Go back to the first standard after the second. Is it within ${millivolts(2, 0)} of before?`,
    minutes: 8,
  },
  {
    feature: 'cleaning',
    instruction: 'Clean it and read the same standard again. Has it moved, or does it settle faster?',
    minutes: 15,
  },
  {
    feature: 'temperature',
    instruction: 'Hold a thermometer beside it for five minutes. Do the two agree?',
    minutes: 8,
  },
  {
    feature: 'beakerAndTank',
    answers: ['agree', 'only the tank is wrong'],
    instruction:
      'Take a beaker of the tank’s water, put probe and hand meter into it. Does it read there what it reads in the tank?',
    minutes: 10,
  },
  {
    feature: 'unplugging',
    instruction: 'Unplug pumps, heaters and lamps in this water one by one. Does the reading come to rest?',
    minutes: 20,
  },
  {
    feature: 'deviceNumbers',
    instruction: 'Look at slope and zero in the device’s menu. Are they those of the last calibration?',
    minutes: 3,
  },
  {
    feature: 'airZero',
    instruction: 'Blow the cell dry, wait, and hold it in air. Does it read near zero?',
    minutes: 60,
  },
]
