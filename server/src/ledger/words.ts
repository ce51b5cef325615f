import {
  type FieldSpec,
  type FormValue,
  parametersText,
  type Step,
  shownText,
  signalText,
  type VisitEntry,
  type VisitState,
} from '@frustum/core'

const DECISIONS: Record<string, string> = {
  'leave-alone': 'leave it alone',
  adjust: 'adjust',
  'clean-and-recheck': 'clean and recheck',
  condition: 'condition it',
  replace: 'replace it',
  repeat: 'take it again',
}

/** A line of the record in words. */
export function entryWords(entry: VisitEntry, steps: ReadonlyMap<string, Step>, evidence: VisitState): string {
  const name = (key: string) => steps.get(key)?.short ?? key
  switch (entry.type) {
    case 'done':
      return `${name(entry.step)}: done`
    case 'skipped':
      return `${name(entry.step)}: skipped, "${entry.reason}"`
    case 'captured': {
      const { signal, shown, temperature, earlyReason } = entry.reading
      const early = earlyReason ? `, taken early: "${earlyReason}"` : ''
      return `${name(entry.step)}: ${signalText(evidence, signal)}, shows ${shownText(evidence, shown)}, ${temperature.toFixed(1)} °C${early}`
    }
    case 'typed':
      return `${name(entry.step)}: typed ${entry.value} at ${entry.temperature} °C`
    case 'filled':
      return `${name(entry.step)}: ${Object.entries(entry.values)
        .map(([key, value]) =>
          fieldWords(
            steps.get(entry.step)?.fields?.find((f) => f.key === key),
            key,
            value,
          ),
        )
        .join(', ')}`
    case 'waiting':
      return `${name(entry.step)}: begun, ${entry.minutes} min`
    case 'redo':
      return `${name(entry.step)}: to be taken again, "${entry.reason}"`
    case 'decided': {
      const words = (d: string) =>
        d === 'adjust' && steps.get(entry.step)?.kind === 'verdict' ? 'go on and calibrate' : (DECISIONS[d] ?? d)
      return `${name(entry.step)}: decided to ${words(entry.decision)}${
        entry.decision === entry.proposed ? ', as proposed' : `; proposed was to ${words(entry.proposed)}`
      }${entry.note ? `, "${entry.note}"` : ''}`
    }
    case 'applied':
      return `Given to the device ${entry.way === 'link' ? 'over the link' : 'by hand'}: ${parametersText(evidence.model, entry.characteristic)}`
    case 'overridden':
      return `Went on although ${entry.rule} was the rule: "${entry.reason}"`
    case 'taken-over':
      return `Taken over from ${entry.from}`
    case 'abandoned':
      return `Ended without a result: "${entry.reason}"`
  }
}

/** What was typed into a field, under the name that stood beside it. */
function fieldWords(field: FieldSpec | undefined, key: string, value: FormValue): string {
  const chosen = field?.choices?.find((c) => c.value === value)?.label ?? String(value)
  const label = (field?.row ? `${field.row}, ${field.label}` : (field?.label ?? key)).toLowerCase()
  return `${label} ${chosen}${field?.unit && field.unit !== 'pH' ? ` ${field.unit}` : ''}`
}
