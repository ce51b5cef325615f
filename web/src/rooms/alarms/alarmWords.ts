import type { AlarmView } from '@frustum/contract'
import { asRead, fixed } from '../../components/format.ts'

/** What is wrong, in a sentence. */
export function alarmWords({ kind, value, limit, unit, decimals }: AlarmView): string {
  const read = asRead({ unit, decimals })
  const said = (v: number | null) => (v === null ? '' : `${fixed(read.of(v), read.decimals)} ${read.unit}`)
  switch (kind) {
    case 'high-high':
      return `far too high: ${said(value)}, highest ${said(limit)}`
    case 'high':
      return `too high: ${said(value)}, limit ${said(limit)}`
    case 'low-low':
      return `far too low: ${said(value)}, lowest ${said(limit)}`
    case 'low':
      return `too low: ${said(value)}, limit ${said(limit)}`
    case 'impossible':
      return `reads what cannot be: ${said(value)}`
    case 'blind':
      return 'does not answer'
  }
}
