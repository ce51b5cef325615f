import { decimalMark } from '@frustum/contract/decimalMark'
import { readTypedNumber, typedNumberProblem } from '@frustum/core'
import { Choice } from '../../components/Choice.tsx'
import { useInstrumentsQuery } from '../../store/api.ts'
import { Field } from '../bench/Field.tsx'

/** What displays are held against: chosen from the instruments, or by its name. */
export interface BesideDraft {
  chosen: string
  name: string
  /** Half-width of its 95 % interval, as typed. */
  uncertainty: string
  /** For which unit it is; empty for all. */
  unit: string
}

export const NOTHING_BESIDE: BesideDraft = { chosen: '', name: '', uncertainty: '', unit: '' }
const OTHER = 'other'
const KINDS = ['hand-meter', 'kit', 'thermometer']

export const fitsBeside = ({ chosen, unit }: BesideDraft, shown: string): boolean =>
  chosen !== '' && (unit === '' || unit === shown)

/** What was typed beside a display; or what is wrong with it. */
export function besideOf({ name, uncertainty }: BesideDraft, typed: string) {
  const value = readTypedNumber(typed, decimalMark())
  const width = readTypedNumber(uncertainty, decimalMark())
  if (!value.ok) return typedNumberProblem(typed, value.problem)
  if (name.trim() === '') return 'Say above what stands beside it.'
  if (!width.ok || width.value <= 0) return 'Say above what it is good to.'
  return { value: value.value, uncertainty: width.value, with: name.trim() }
}

interface BesideProps {
  draft: BesideDraft
  /** Those of the displays. */
  units: readonly string[]
  onChange: (draft: BesideDraft) => void
}

/** A hand meter, a kit or a laboratory that the displays are held against on the way. */
export function Beside({ draft, units, onChange }: BesideProps) {
  const { data: known = [] } = useInstrumentsQuery()
  const fitting = known.filter((i) => KINDS.includes(i.kind))
  const choose = (chosen: string) => {
    const instrument = fitting.find((i) => String(i.id) === chosen)
    if (!instrument) {
      onChange({ ...NOTHING_BESIDE, chosen, unit: chosen === OTHER ? (units[0] ?? '') : '' })
      return
    }
    const { name, uncertainty, unit } = instrument
    onChange({
      chosen,
      name,
      uncertainty: uncertainty === null ? '' : String(uncertainty),
      unit: units.includes(unit) ? unit : (units[0] ?? ''),
    })
  }
  return (
    <div className="flex flex-wrap gap-x-4">
      <Choice
        label="Beside them"
        value={draft.chosen}
        choices={[
          ['', 'nothing'],
          ...fitting.map((i) => [String(i.id), [i.name, i.serial].filter(Boolean).join(', ')] as const),
          [OTHER, 'a laboratory'],
        ]}
        onChoose={choose}
      />
      {draft.chosen !== '' && (
        <>
          {draft.chosen === OTHER && (
            <Field
              label="Which"
              unit=""
              inputMode="text"
              error={undefined}
              value={draft.name}
              onChange={(e) => onChange({ ...draft, name: e.target.value })}
            />
          )}
          <Field
            label="Good to ±"
            unit={units.length > 1 ? '' : (units[0] ?? '')}
            error={undefined}
            value={draft.uncertainty}
            onChange={(e) => onChange({ ...draft, uncertainty: e.target.value })}
          />
          {units.length > 1 && (
            <Choice
              label="In"
              value={draft.unit}
              choices={units.map((unit) => [unit, unit])}
              onChoose={(unit) => onChange({ ...draft, unit })}
            />
          )}
        </>
      )}
    </div>
  )
}
