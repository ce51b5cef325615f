import { type Given, type Sheet, type SheetResult, show } from '@frustum/core/reckoner'
import { text } from '../../components/format.ts'
import type { Entries } from './useSheet.ts'

const withUnit = (value: string, unit: string) => (unit ? `${value} ${unit}` : value)

/** Whether a given field matters for the choices made. */
export function matters(field: Sheet['given'][number], given: Given): boolean {
  return field.kind === 'choice' || !field.matters || field.matters(given)
}

/** A sheet as plain text: what went in, what came out, how, and from where. */
export function asText(sheet: Sheet, entries: Entries, result: SheetResult, given: Given): string {
  const lines = [sheet.title, '']
  for (const field of sheet.given) {
    if (!matters(field, given)) continue
    const text = entries.given[field.id] ?? ''
    const word =
      field.kind === 'choice'
        ? (field.options.find((o) => o.value === text)?.label ?? text)
        : withUnit(text, field.unit)
    lines.push(`${field.label}: ${word}`)
  }
  for (const { field, value, uncertainty } of [...result.linked, ...result.outputs]) {
    const mark = field.id === entries.held ? ' (held)' : ''
    const sure = uncertainty === null ? '' : ` \u00b1 ${show(uncertainty, { figures: 2 })}`
    lines.push(`${field.label}: ${withUnit(`${show(value, field)}${sure}`, field.unit)}${mark}`)
  }
  return [
    ...lines,
    '',
    ...result.working,
    ...result.remarks.map((r) => text(r)),
    '',
    `Source: ${sheet.source}`,
    `Range and certainty: ${sheet.range}`,
  ].join('\n')
}
