import type { SensorKind } from '../kinds/index.ts'
import { standardOf } from '../standards/standard.ts'
import type { VisitState } from './procedure.ts'

interface KindWords {
  /** What one holds in the hand. */
  sensor: string
  /** How it goes into a standard. */
  immerse: string
  clean: { title: string; hint: string }
}

const GLASS = 'Tip and junction covered. Tilt it and tap once, so that no bubble sits on the glass.'

const WORDS: Record<SensorKind, KindWords> = {
  ph: {
    sensor: 'probe',
    immerse: GLASS,
    clean: {
      title: 'Clean the glass, then rinse it',
      hint: 'A few drops of cleaner in water; a soft brush only for heavy deposits. Rinse at once. Blot, never wipe.',
    },
  },
  orp: {
    sensor: 'probe',
    immerse: 'Metal and junction covered. Tap once, so that no bubble sits on the metal.',
    clean: {
      title: 'Clean the metal and the junction, then rinse',
      hint: 'A few drops of cleaner and a soft brush; polish dull metal gently. Rinse at once and well.',
    },
  },
  conductivity: {
    sensor: 'cell',
    immerse: 'Fully immersed, vent holes up and covered, bubbles tapped off, clear of the walls.',
    clean: {
      title: 'Rub the face hard with the cleaner, then rinse',
      hint: 'Rinse under running water. Do not touch the face with a finger afterwards.',
    },
  },
  ion: {
    sensor: 'tip',
    immerse: 'Membrane and junction covered; turn it once, so that no bubble sits on the membrane.',
    clean: {
      title: 'Rinse the tip and the junction',
      hint: 'Water only, no cleaner on the membrane. Blot it, never wipe.',
    },
  },
  chlorine: {
    sensor: 'sensor',
    immerse: 'Flow on and steady, no bubbles on the membrane.',
    clean: {
      title: 'Rinse the membrane cap softly',
      hint: 'Water only. Do not touch the membrane; a slack or stained one is replaced.',
    },
  },
  'nitrate-optical': {
    sensor: 'sensor',
    immerse: 'The gap filled, no bubbles in it, shaded from light.',
    clean: {
      title: 'Clean the gap with distilled water and a soft cloth',
      hint: 'Nothing that scratches. Look through it against the light.',
    },
  },
  temperature: {
    sensor: 'sensor',
    immerse: 'Sensor and both thermometers side by side, as deep as they work, in stirred water.',
    clean: { title: 'Wipe the sensor clean', hint: 'Scale on a sensor makes it slow.' },
  },
}

export const wordsOf = (kind: SensorKind): KindWords => WORDS[kind]

/** What is printed on the bottle chosen for a role. */
export function standardLabel(evidence: VisitState, role: string): string {
  const chosen = evidence.setup.standards[role]
  return chosen ? standardOf(chosen.code).label : 'the standard'
}

/** A displayed value as it stands on the device. */
export function shownText(evidence: VisitState, shown: number): string {
  const { model, setup } = evidence
  const { unit, decimals } = model.shownScale(setup.device)
  return `${shown.toFixed(decimals)}${unit === 'pH' ? '' : ` ${unit}`}`
}

/** An error or a tolerance with its unit. */
export function errorText(evidence: VisitState, error: number, sign = true): string {
  const { unit, decimals } = evidence.model.errorScale
  const rounded = error.toFixed(decimals)
  const text = Number(rounded) === 0 ? rounded.replace('-', '') : rounded
  return `${sign && Number(text) > 0 ? '+' : ''}${text} ${unit}`
}

/** A signal as it is shown at its level. */
export function signalText(evidence: VisitState, signal: number, level = signal): string {
  const { unit, decimals, factor } = evidence.model.signalScale(Math.abs(level))
  return `${(signal * factor).toFixed(decimals)} ${unit}`
}
