import type { VisitView } from '@frustum/contract'
import type { PhStepKey } from '@frustum/core'
import { bufferLabel } from '../../parts/format.ts'

interface StepText {
  /** On the ladder. */
  short: string
  /** What to do now, in one sentence. */
  title: string
  hint: string
  /** The main button. */
  main: string
  usualSkips: readonly string[]
}

const TAKE = 'Take it'

/** What each step says, for this visit's water and standards. */
export function stepText(visit: VisitView, step: PhStepKey): StepText {
  const first = bufferLabel(visit.first)
  const second = bufferLabel(visit.second)
  const water = 'the process'
  switch (step) {
    case 'hold':
      return {
        short: 'Hold outputs',
        title: 'Put outputs on hold and dosing off',
        hint: 'A probe in a buffer would make the doser act. Do it at the controller before the probe leaves the water.',
        main: 'They are on hold',
        usualSkips: ['Nothing follows this probe', 'Held already'],
      }
    case 'found-process':
      return {
        short: 'As found, process',
        title: `Leave the probe in ${water} and read it as found`,
        hint: 'Do not clean it yet: this is the only proof of how wrong the data have been.',
        main: TAKE,
        usualSkips: ['Probe was out of the water already'],
      }
    case 'found-buffer':
      return {
        short: `As found, ${first}`,
        title: `Rinse, blot, and into fresh ${first}`,
        hint: 'Still not cleaned. Tip and junction covered; tilt it and tap once, so that no bubble sits on the glass.',
        main: TAKE,
        usualSkips: ['Only one pouring left', 'Probe cleaned already'],
      }
    case 'verdict':
      return { short: 'What it means', title: 'What the check says', hint: '', main: '', usualSkips: [] }
    case 'clean':
      return {
        short: 'Clean and rinse',
        title: 'Clean the glass, then rinse it',
        hint: 'A few drops of cleaner in water; a soft brush only for heavy deposits. Rinse at once. Blot, never wipe.',
        main: 'Cleaned and rinsed',
        usualSkips: ['It is clean', 'Cleaned at the last visit'],
      }
    case 'first-buffer':
      return {
        short: first,
        title: `Into ${first}, tip and junction covered`,
        hint: 'Tilt it and tap once, so that no bubble sits on the glass. Then let it stand.',
        main: TAKE,
        usualSkips: [],
      }
    case 'rinse':
      return {
        short: 'Rinse',
        title: `Rinse well and blot before ${second}`,
        hint: 'A few drops carried over move the second buffer. Never pour used buffer back.',
        main: 'Rinsed',
        usualSkips: ['Rinsed already'],
      }
    case 'second-buffer':
      return {
        short: second,
        title: `Into ${second}, tip and junction covered`,
        hint: 'Tilt it and tap once, so that no bubble sits on the glass. Then let it stand.',
        main: TAKE,
        usualSkips: [],
      }
    case 'result':
      return { short: 'Result', title: 'What the two points say', hint: '', main: '', usualSkips: [] }
    case 'apply':
      return {
        short: 'Apply',
        title: visit.writable ? 'Write slope and zero to the device' : 'Key slope and zero in on the device',
        hint: visit.writable
          ? 'The device reckons with them from then on.'
          : 'Then read what it shows and type it here.',
        main: visit.writable ? 'Write to the device' : 'It is keyed in',
        usualSkips: ['Device locked, will be keyed in later'],
      }
    case 'verify':
      return {
        short: `Verify in ${first}`,
        title: `Rinse, and back into ${first} to verify`,
        hint: 'What it shows now is the as-left reading.',
        main: TAKE,
        usualSkips: ['No buffer left', 'No time'],
      }
    case 'back':
      return {
        short: 'Back into the process',
        title: `Rinse, and back into ${water}`,
        hint: 'Hand-tight is tight enough. Compare with the reading before: a jump is a question to answer before you leave.',
        main: TAKE,
        usualSkips: ['Probe stays in storage', 'Flow is off'],
      }
    case 'release':
      return {
        short: 'Release hold',
        title: 'Release the hold and put dosing back on',
        hint: 'Look at the reading once more first. Pour the used buffer away.',
        main: 'Released, all done',
        usualSkips: [],
      }
  }
}

export const KIND_WORDS = { 'two-point': 'two points', check: 'check only' } as const

export const DECISION_WORDS: Record<string, string> = {
  'leave-alone': 'Leave it alone',
  adjust: 'Adjust',
  'clean-and-recheck': 'Clean and recheck',
  replace: 'Replace it',
  repeat: 'Take the points again',
}
