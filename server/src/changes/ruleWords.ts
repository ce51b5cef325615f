import { RULE_BOUNDS } from '@frustum/contract'
import {
  CHECK_FIRST_WORDS,
  exactly,
  INTERVAL_METHOD_WORDS,
  inPercent,
  modelOf,
  placingFields,
  ruleFields,
  type SensorKind,
  type Sentence,
  say,
  standingFields,
  WORKING_PRACTICES,
} from '@frustum/core'
import type { devices, positions } from '../database/schema.ts'
import { type Value, type Words, wordsOf } from './changes.ts'

/** Rules that are a choice: what they are called, and their choices. */
const CHOICES: Readonly<Record<string, { title: string; words: Readonly<Record<string, string>> }>> = {
  method: { title: 'How the next date is found', words: INTERVAL_METHOD_WORDS },
  checkFirst: { title: 'How a visit begins', words: CHECK_FIRST_WORDS },
  ...Object.fromEntries(
    Object.entries(WORKING_PRACTICES).map(([topic, { title, choices }]) => [
      topic,
      {
        title,
        words: Object.fromEntries(Object.entries(choices).map(([value, { label }]) => [value, label.toLowerCase()])),
      },
    ]),
  ),
}

/** Words for the rules of a position and the ways of working of a site; `otherwise` for all else. */
export const ruleWords =
  (kind: SensorKind | null, otherwise: Words): Words =>
  (field) => {
    const choice = CHOICES[field]
    const bounds = Object.entries(RULE_BOUNDS).find(([name]) => name === field)?.[1]
    if (choice) return { title: choice.title, said: (value) => choice.words[String(value)] ?? String(value) }
    if (!bounds) return otherwise(field)
    return {
      title: capital(bounds.what),
      said: (value: Value): Sentence => {
        if (typeof value !== 'number') return String(value)
        if (field === 'reliability') return say`${inPercent(value)}`
        const quantity = exactly(value, bounds.unit || unitOf(field, kind))
        return say`${field === 'tolerance' ? { ...quantity, difference: true as const } : quantity}`
      },
    }
  }

/** How the rules and all else of a position are said; its usual value in the unit in which it is stored. */
export function positionWords({
  position: { kind },
  device,
}: {
  position: Pick<typeof positions.$inferSelect, 'kind'>
  device: Pick<typeof devices.$inferSelect, 'setting'>
}): Words {
  return ruleWords(kind, wordsOf([...placingFields(), ...standingFields(), ...ruleFields(kind, device.setting)]))
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

/** The unit that comes with the kind. */
function unitOf(field: string, kind: SensorKind | null): string {
  if (!kind) return ''
  const model = modelOf(kind)
  return field === 'tolerance' ? model.errorScale.unit : field === 'processValue' ? model.coreUnit : ''
}
