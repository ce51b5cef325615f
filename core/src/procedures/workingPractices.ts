import type { SettlingGrade } from '../stability/grade.ts'
import { flatWait, type Stopwatch, stillFor } from '../stability/stopwatch.ts'

/** Ways of working on which good operators differ. A site picks one of each; the reason is said beside the choice. */
export const WORKING_PRACTICES = {
  rinse: {
    title: 'Rinse with',
    choices: {
      ro: {
        label: 'RO or DI water',
        reason: 'Leaves nothing behind in the next standard. Never store a sensor in it.',
      },
      tap: {
        label: 'Tap water',
        reason: 'Always at hand, and its salt keeps the glass from static. A last drop changes a low standard.',
      },
    },
  },
  dry: {
    title: 'Between standards',
    choices: {
      blot: { label: 'Blot with tissue', reason: 'Takes the drop off. Blot, never wipe: wiping charges the glass.' },
      shake: {
        label: 'Shake it off',
        reason: 'Nothing touches the tip. Needs larger pourings, for a little comes along.',
      },
    },
  },
  stir: {
    title: 'In the standard',
    choices: {
      still: {
        label: 'Swirl once, let it stand',
        reason: 'The reading is that of a resting sensor, as in a tank with slow water.',
      },
      gentle: {
        label: 'Keep a gentle movement',
        reason: 'Settles sooner and is nearer to flowing water. Keep it even, or the reading wanders.',
      },
    },
  },
  order: {
    title: 'Order of pH buffers',
    choices: {
      'seven-first': {
        label: '7 first',
        reason: 'Gives the zero first; what is carried over changes the other buffer least.',
      },
      'far-first': {
        label: 'The far one first',
        reason: 'Ends at 7, where the sensor is verified anyway: one cup less.',
      },
    },
  },
  temperature: {
    title: 'Standards at',
    choices: {
      room: {
        label: 'Room temperature',
        reason: 'No waiting. The value at the measured temperature is looked up for you.',
      },
      process: {
        label: 'The water\u2019s temperature',
        reason: 'No step in temperature for the sensor, so it settles sooner. The bottles float for an hour first.',
      },
    },
  },
  settling: {
    title: 'A reading counts when',
    choices: {
      judged: {
        label: 'Its end is known; to adjust, it also rests',
        reason:
          'The trace is watched. A check is over as soon as the end is known; a point of a calibration waits to see that it does not creep.',
      },
      known: {
        label: 'Its end is known',
        reason: 'Soonest. A slow creep may still be in it, within what is stated.',
      },
      rest: {
        label: 'It is known to rest',
        reason: 'Longest, for checks too: a creep of 0.01 pH a minute or more is excluded.',
      },
      still: { label: 'It stood still for 15 s', reason: 'The old rule. Quick, but a slow tail stands still too.' },
      flat: {
        label: 'A fixed time is over',
        reason: 'pH 2 min, conductivity 1 min, ions 5 min. Simple to audit, and mostly longer than needed.',
      },
    },
  },
  verify: {
    title: 'After an adjustment verify in',
    choices: {
      first: { label: 'The first standard', reason: 'It is back where the points began: what was carried over shows.' },
      last: { label: 'The last standard', reason: 'The sensor stands in it already. Quick, and it shows the least.' },
      both: { label: 'Each of them', reason: 'Zero and slope are both seen as left. One more cup.' },
    },
  },
} as const

export type PracticeTopic = keyof typeof WORKING_PRACTICES
export type WorkingPractices = { [T in PracticeTopic]: keyof (typeof WORKING_PRACTICES)[T]['choices'] }

export const USUAL_PRACTICES: WorkingPractices = {
  rinse: 'ro',
  dry: 'blot',
  stir: 'still',
  order: 'seven-first',
  temperature: 'room',
  settling: 'judged',
  verify: 'first',
}

/** What a reading is waited for where the trace is watched, in a step that asks for `asked`. */
export function gradeOf({ settling }: WorkingPractices, asked: SettlingGrade = 'known'): SettlingGrade {
  return settling === 'known' || settling === 'rest' ? settling : asked
}

const STILL_SECONDS = 15

/** The stopwatch of the site's school; null where readings are judged by their end. */
export function stopwatchOf(
  { settling }: WorkingPractices,
  flatWaitSeconds: number,
  repeatability: number,
): Stopwatch | null {
  if (settling === 'flat') return flatWait(flatWaitSeconds)
  return settling === 'still' ? stillFor(STILL_SECONDS, repeatability / 2) : null
}

/** How to rinse and dry, in the words of the site's school. */
export const rinseWords = ({ rinse, dry }: WorkingPractices): string =>
  `Rinse with ${rinse === 'ro' ? 'RO or DI' : 'tap'} water and ${dry === 'blot' ? 'blot, never wipe' : 'shake it off'}.`

export const stirWords = ({ stir }: WorkingPractices): string =>
  stir === 'still' ? 'Swirl once, then let it stand.' : 'Keep a gentle, even movement.'
