import type { Cause } from './causes.ts'
import type { Feature } from './features.ts'

/**
 * What each cause does to what can be seen: the chances of the answers of a feature, in the order in which
 * features.ts lists them, with the reason. What a cause does not name looks as on a sound sensor. This table is the
 * whole of what the diagnosis believes; it learns nothing by itself, and is changed here, by hand, with a reason.
 * Chances from the physics of the electrode and the experience of the trade (common practice, no source).
 */
export interface Likelihood {
  chances: readonly number[]
  because: string
}

export const SOUND: Record<Feature, readonly number[]> = {
  zeroCourse: [0.86, 0.1, 0.02, 0.02],
  // Of a zero that moved: which way a sound one wanders, nobody can say.
  referenceGoes: [0.5, 0.5],
  // Electrodes at work run between 92 and 99 % (common practice, no source).
  slopeLevel: [0.78, 0.19, 0.01, 0.002, 0.018],
  slopeCourse: [0.92, 0.05, 0.02, 0.01],
  settling: [0.93, 0.065, 0.005],
  slowSince: [0.5, 0.5],
  noise: [0.97, 0.025, 0.005],
  noiseApart: [0.965, 0.035],
  whatMoved: [0.4, 0.3, 0.3],
  hysteresis: [0.95, 0.05],
  cleaning: [0.93, 0.07],
  cleaningMoved: [0.5, 0.5],
  beakerAndTank: [0.95, 0.025, 0.025],
  // Water goes either way.
  tankGoes: [0.5, 0.5],
  tankNoise: [0.96, 0.04],
  temperature: [0.98, 0.02],
  standards: [0.97, 0.03],
  before: [0.9, 0.04, 0.02, 0.04],
  sharedShift: [0.9, 0.07, 0.03],
  electrolyte: [0.65, 0.35],
  junctionResistance: [0.96, 0.04],
  glassResistance: [0.97, 0.01, 0.02],
  airZero: [0.97, 0.03],
  cellReads: [0.94, 0.03, 0.03],
  deviceNumbers: [0.99, 0.01],
  stirring: [0.95, 0.05],
  tapping: [0.97, 0.03],
  afterSoak: [0.96, 0.04],
  afterRefill: [0.96, 0.04],
  freshStandard: [0.97, 0.03],
  unplugging: [0.97, 0.03],
}

export const LIKELIHOODS: Record<Cause, Partial<Record<Feature, Likelihood>>> = {
  nothing: {},
  'electrolyte-used-up': {
    whatMoved: { chances: [0.9, 0.05, 0.05], because: 'the reference is in every reading' },
    slowSince: { chances: [0.25, 0.75], because: 'its salt goes by and by' },
    zeroCourse: {
      chances: [0.05, 0.35, 0.45, 0.15],
      because: 'the potential of the reference follows its chloride, which leaks away',
    },
    // E = E0 - k log a(Cl): Nernst.
    referenceGoes: { chances: [0.06, 0.94], because: 'with less chloride the potential of its silver rises' },
    settling: { chances: [0.45, 0.45, 0.1], because: 'a thin electrolyte carries the current badly' },
    noise: { chances: [0.75, 0.08, 0.17], because: 'so does its rest potential' },
    hysteresis: { chances: [0.65, 0.35], because: 'the liquid junction is no longer swamped by KCl' },
    sharedShift: { chances: [0.04, 0.06, 0.9], because: 'all that share the reference shift with it' },
    electrolyte: { chances: [0.3, 0.7], because: 'it mostly takes months to run out; a small or a hot one less' },
    junctionResistance: { chances: [0.6, 0.4], because: 'resistance rises as the salt goes' },
    stirring: { chances: [0.35, 0.65], because: 'flow carries ions out of a poor junction' },
    afterSoak: { chances: [0.7, 0.3], because: 'a soak brings a little KCl back' },
    afterRefill: { chances: [0.08, 0.92], because: 'fresh electrolyte is all it lacks' },
  },
  'electrolyte-contaminated': {
    whatMoved: { chances: [0.9, 0.05, 0.05], because: 'the reference is in every reading' },
    zeroCourse: {
      chances: [0.04, 0.3, 0.5, 0.16],
      because: 'sulphide, bromide or a complexing agent moves the potential of the silver',
    },
    // pKsp of Ag2S 50, AgBr 12.3, AgCl 9.8; silver complexes of ammonia and cyanide (handbook figures, from memory).
    referenceGoes: {
      chances: [0.94, 0.06],
      because: 'what binds silver more firmly than chloride lowers its potential',
    },
    settling: { chances: [0.6, 0.35, 0.05], because: 'the junction itself is open' },
    sharedShift: { chances: [0.04, 0.06, 0.9], because: 'all that share the reference shift with it' },
    before: { chances: [0.3, 0.65, 0.02, 0.03], because: 'it began with something getting in' },
    electrolyte: { chances: [0.7, 0.3], because: 'it can happen at any age' },
    afterSoak: { chances: [0.95, 0.05], because: 'the poison stays inside' },
    afterRefill: { chances: [0.75, 0.25], because: 'the silver is attacked too; it comes back for days at most' },
  },
  'junction-blocked': {
    whatMoved: { chances: [0.6, 0.1, 0.3], because: 'what the last solution left is in single readings' },
    slowSince: { chances: [0.25, 0.75], because: 'it blocks bit by bit' },
    zeroCourse: { chances: [0.2, 0.5, 0.2, 0.1], because: 'a blocked junction has a potential of its own' },
    settling: { chances: [0.05, 0.45, 0.5], because: 'ions pass slowly' },
    noise: { chances: [0.6, 0.15, 0.25], because: 'high resistance picks up' },
    hysteresis: { chances: [0.2, 0.8], because: 'the last solution stays in the pores' },
    cleaning: { chances: [0.65, 0.35], because: 'cleaning opens some of them' },
    sharedShift: { chances: [0.25, 0.25, 0.5], because: 'all that share the reference shift with it' },
    junctionResistance: { chances: [0.06, 0.94], because: 'that is what blocked means' },
    stirring: { chances: [0.12, 0.88], because: 'streaming potential over a poor junction' },
    beakerAndTank: { chances: [0.8, 0.12, 0.08], because: 'flow and pressure differ' },
  },
  'glass-aged': {
    whatMoved: { chances: [0.75, 0.15, 0.1], because: 'a lost slope is in all of them' },
    slowSince: { chances: [0.15, 0.85], because: 'month by month' },
    slopeLevel: { chances: [0.08, 0.5, 0.4, 0.01, 0.01], because: 'the gel layer loses sites' },
    slopeCourse: { chances: [0.19, 0.74, 0.06, 0.01], because: 'month by month' },
    settling: { chances: [0.25, 0.6, 0.15], because: 'a thick gel layer answers slowly' },
    glassResistance: { chances: [0.55, 0.02, 0.43], because: 'old glass has a high resistance' },
  },
  'glass-coated': {
    whatMoved: { chances: [0.35, 0.05, 0.6], because: 'before cleaning it holds the last solution' },
    slowSince: { chances: [0.25, 0.75], because: 'the film grows' },
    slopeLevel: {
      chances: [0.35, 0.45, 0.19, 0, 0.01],
      because: 'a film keeps the bulb in its own water; cleaning brings most of it back',
    },
    slopeCourse: {
      chances: [0.5, 0.4, 0.08, 0.02],
      because: 'what cleaning leaves behind grows from visit to visit',
    },
    settling: { chances: [0.08, 0.47, 0.45], because: 'ions must diffuse through the film' },
    hysteresis: { chances: [0.55, 0.45], because: 'the film holds the last solution' },
    cleaning: { chances: [0.15, 0.85], because: 'that takes the film off' },
    cleaningMoved: { chances: [0.92, 0.08], because: 'the film held some of the process’s own water' },
    glassResistance: { chances: [0.8, 0.0, 0.2], because: 'a film adds a little' },
  },
  'glass-cracked': {
    whatMoved: { chances: [0.95, 0.03, 0.02], because: 'it reads the same in everything' },
    zeroCourse: { chances: [0.25, 0.08, 0.07, 0.6], because: 'both sides of the glass are the same solution now' },
    slopeLevel: { chances: [0.005, 0.01, 0.035, 0.945, 0.005], because: 'no difference of potential is left' },
    slopeCourse: { chances: [0.03, 0.05, 0.91, 0.01], because: 'it breaks in a moment' },
    glassResistance: { chances: [0.04, 0.94, 0.02], because: 'the crack conducts' },
  },
  'dried-out': {
    whatMoved: { chances: [0.8, 0.08, 0.12], because: 'gel layer and junction are in every reading' },
    slowSince: { chances: [0.85, 0.15], because: 'it happened between two visits' },
    zeroCourse: { chances: [0.2, 0.1, 0.1, 0.6], because: 'gel layer and junction have lost their water' },
    slopeLevel: { chances: [0.25, 0.42, 0.29, 0.03, 0.01], because: 'a dry gel layer answers in part' },
    slopeCourse: { chances: [0.44, 0.1, 0.45, 0.01], because: 'since one visit' },
    settling: { chances: [0.03, 0.22, 0.75], because: 'it swells while one waits' },
    noise: { chances: [0.7, 0.27, 0.03], because: 'a dry junction is restless' },
    hysteresis: { chances: [0.4, 0.6], because: 'it goes on swelling' },
    before: { chances: [0.35, 0.03, 0.6, 0.02], because: 'it stood in air' },
    glassResistance: { chances: [0.55, 0.0, 0.45], because: 'dry glass has a high resistance' },
    junctionResistance: { chances: [0.5, 0.5], because: 'so has a dry junction' },
    stirring: { chances: [0.6, 0.4], because: 'the junction is not wetted yet' },
    afterSoak: { chances: [0.08, 0.92], because: 'water is all it lacks' },
  },
  bubble: {
    noise: { chances: [0.6, 0.37, 0.03], because: 'it trembles, and is gone by the next visit' },
    noiseApart: { chances: [0.3, 0.7], because: 'it sits there in one standard only' },
    cellReads: { chances: [0.08, 0.9, 0.02], because: 'air does not conduct' },
    tapping: { chances: [0.05, 0.95], because: 'that takes it off' },
    stirring: { chances: [0.35, 0.65], because: 'flow moves it' },
  },
  'bad-standard': {
    cellReads: { chances: [0.2, 0.4, 0.4], because: 'evaporated or diluted' },
    freshStandard: { chances: [0.05, 0.95], because: 'the sensor is right' },
    sharedShift: { chances: [0.55, 0.4, 0.05], because: 'a standard is for one electrode' },
  },
  'temperature-wrong': {
    temperature: { chances: [0.04, 0.96], because: 'that is what it is' },
    slopeLevel: { chances: [0.7, 0.17, 0.02, 0, 0.11], because: 'slope is computed with the wrong temperature' },
    cellReads: { chances: [0.2, 0.4, 0.4], because: 'compensation with the wrong temperature' },
  },
  'connector-wet': {
    beakerAndTank: { chances: [0.8, 0.08, 0.12], because: 'it is there in the beaker too' },
    unplugging: { chances: [0.9, 0.1], because: 'other equipment is not the cause' },
  },
  'ground-loop': {
    beakerAndTank: {
      chances: [0.05, 0.94, 0.01],
      because: 'the current flows through the tank, not through the beaker',
    },
    noise: { chances: [0.88, 0.06, 0.06], because: 'in the beaker it is quiet' },
    tankNoise: { chances: [0.45, 0.55], because: 'most stray currents hum' },
    unplugging: { chances: [0.1, 0.9], because: 'the source goes with it' },
  },
  'ion-tip-spent': {
    slopeLevel: { chances: [0.06, 0.36, 0.55, 0.03, 0], because: 'the membrane has lost its exchanger' },
    slopeCourse: { chances: [0.11, 0.83, 0.05, 0.01], because: 'visit by visit' },
    settling: { chances: [0.2, 0.55, 0.25], because: 'a worn membrane answers slowly' },
    zeroCourse: { chances: [0.35, 0.55, 0.07, 0.03], because: 'its own potential goes too' },
    sharedShift: { chances: [0.3, 0.68, 0.02], because: 'it is this electrode’s own' },
  },
  'interfering-ion': {
    beakerAndTank: { chances: [0.1, 0.89, 0.01], because: 'standards have none of it, the water has' },
    slopeLevel: { chances: [0.85, 0.13, 0.02, 0, 0], because: 'in standards it is sound' },
    unplugging: { chances: [0.97, 0.03], because: 'it is in the water' },
    // Nikolsky's equation: another ion adds to what the membrane sees, and takes nothing from it.
    tankGoes: { chances: [0.03, 0.97], because: 'another ion only adds to what it sees' },
    // A beaker of the tank's own water reads as wrong as the tank: what tells it from stray voltage.
    noise: { chances: [0.97, 0.025, 0.005], because: 'it is steadily wrong' },
  },
  'cell-fouled': {
    cellReads: { chances: [0.08, 0.91, 0.01], because: 'a layer takes part of the field' },
    cleaning: { chances: [0.04, 0.96], because: 'that takes the layer off' },
    settling: { chances: [0.6, 0.35, 0.05], because: 'solution lingers in the layer' },
    slopeCourse: { chances: [0.39, 0.56, 0.04, 0.01], because: 'it grows week by week' },
  },
  'cell-not-dry': {
    airZero: { chances: [0.05, 0.95], because: 'a film of water conducts' },
    cellReads: { chances: [0.5, 0.45, 0.05], because: 'the wrong zero is taken off everything' },
    zeroCourse: { chances: [0.2, 0.02, 0.01, 0.77], because: 'since one visit' },
  },
  'device-reset': {
    deviceNumbers: { chances: [0.03, 0.97], because: 'its memory holds what it left the factory with' },
    before: { chances: [0.4, 0.02, 0.02, 0.56], because: 'the power failed' },
  },
}

/** A way in which a cause can show, and how often it is this one; what it does not name is as the cause says. */
export interface Variant {
  share: number
  of: Partial<Record<Feature, Likelihood>>
}

/** One of the two standards is wrong: what that does to slope and points, whichever it is. */
const ONE_POINT_OFF: Variant['of'] = {
  slopeLevel: {
    chances: [0.25, 0.2, 0.2, 0.02, 0.33],
    because: 'no electrode is better than ideal; a high slope is the standard’s',
  },
  slopeCourse: { chances: [0.2, 0.04, 0.74, 0.02], because: 'since one visit' },
  standards: { chances: [0.4, 0.6], because: 'the points do not fit together' },
}

/** Where one cause shows in ways that exclude each other: their answers go together, and are weighed together. */
export const VARIANTS: Partial<Record<Cause, readonly Variant[]>> = {
  bubble: [
    {
      share: 0.35,
      of: {
        cleaning: { chances: [0.12, 0.88], because: 'rinsing and wiping took it off' },
        whatMoved: { chances: [0.06, 0.06, 0.88], because: 'it sat there before cleaning only' },
        cellReads: { chances: [0.94, 0.05, 0.01], because: 'it was gone when the cell was calibrated' },
      },
    },
    {
      share: 0.35,
      of: {
        zeroCourse: { chances: [0.25, 0.06, 0.06, 0.63], because: 'in the first standard part of the tip saw air' },
        slopeLevel: { chances: [0.35, 0.2, 0.2, 0.05, 0.2], because: 'at one point and not at the other' },
        slopeCourse: { chances: [0.25, 0.03, 0.7, 0.02], because: 'since one visit' },
        cleaning: { chances: [0.2, 0.8], because: 'it was not there before cleaning' },
        hysteresis: { chances: [0.15, 0.85], because: 'it was gone on the way back' },
        whatMoved: { chances: [0.06, 0.12, 0.82], because: 'it sat there at one of them' },
        beakerAndTank: { chances: [0.3, 0.05, 0.65], because: 'it came with the cup and stayed with it' },
        standards: { chances: [0.6, 0.4], because: 'it sat there at one standard only' },
        cellReads: { chances: [0.03, 0.96, 0.01], because: 'air does not conduct' },
      },
    },
    {
      share: 0.3,
      of: {
        slopeLevel: { chances: [0.3, 0.22, 0.22, 0.05, 0.21], because: 'at one point and not at the other' },
        slopeCourse: { chances: [0.2, 0.05, 0.73, 0.02], because: 'since one visit' },
        whatMoved: { chances: [0.2, 0.4, 0.4], because: 'it sat there in the second standard only' },
        beakerAndTank: { chances: [0.45, 0.05, 0.5], because: 'it came with the cup and stayed with it' },
        standards: { chances: [0.55, 0.45], because: 'it sat there at one standard only' },
        cellReads: { chances: [0.94, 0.05, 0.01], because: 'it came after the cell was calibrated' },
      },
    },
  ],
  'bad-standard': [
    {
      share: 0.4,
      of: {
        zeroCourse: { chances: [0.28, 0.06, 0.03, 0.63], because: 'the wrong value is taken for right' },
        ...ONE_POINT_OFF,
        whatMoved: { chances: [0.08, 0.84, 0.08], because: 'the first standard is wrong, and no other' },
        beakerAndTank: { chances: [0.2, 0.02, 0.78], because: 'in the tank it reads as it always did' },
      },
    },
    {
      share: 0.4,
      of: {
        ...ONE_POINT_OFF,
        whatMoved: { chances: [0.2, 0.6, 0.2], because: 'the second standard is wrong, and no other' },
        beakerAndTank: { chances: [0.4, 0.02, 0.58], because: 'in the tank it reads as it always did' },
      },
    },
    {
      share: 0.2,
      of: {
        standards: { chances: [0.04, 0.96], because: 'each was nearer to the value of the other' },
        whatMoved: { chances: [0.7, 0.2, 0.1], because: 'both were the other one' },
        slopeCourse: { chances: [0.1, 0.02, 0.86, 0.02], because: 'it turned round' },
        slopeLevel: { chances: [0.05, 0.05, 0.1, 0.75, 0.05], because: 'it turned round' },
      },
    },
  ],
  'connector-wet': [
    {
      share: 0.55,
      of: {
        noise: { chances: [0.04, 0.32, 0.64], because: 'moisture crackles and picks up until somebody dries it' },
        noiseApart: { chances: [0.75, 0.25], because: 'it comes and goes' },
        slopeLevel: { chances: [0.5, 0.3, 0.17, 0.02, 0.01], because: 'a little of the signal leaks off' },
        slopeCourse: { chances: [0.5, 0.15, 0.2, 0.15], because: 'a little of the signal leaks off' },
        glassResistance: { chances: [0.6, 0.38, 0.02], because: 'the leak lies beside the glass' },
      },
    },
    {
      share: 0.45,
      of: {
        noise: { chances: [0.25, 0.25, 0.5], because: 'moisture crackles and picks up until somebody dries it' },
        slopeLevel: {
          chances: [0.1, 0.42, 0.43, 0.05, 0],
          because: 'a shunt beside hundreds of megohms takes part of the signal',
        },
        slopeCourse: { chances: [0.1, 0.1, 0.55, 0.25], because: 'it comes and goes' },
        zeroCourse: { chances: [0.45, 0.12, 0.08, 0.35], because: 'leakage pulls the signal towards zero' },
        whatMoved: { chances: [0.6, 0.25, 0.15], because: 'it takes a share of every signal' },
        glassResistance: { chances: [0.35, 0.63, 0.02], because: 'the leak lies beside the glass' },
      },
    },
  ],
}
