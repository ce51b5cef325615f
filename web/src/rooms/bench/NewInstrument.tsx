import type { InstrumentView } from '@frustum/contract'
import { INSTRUMENT_KINDS, type InstrumentKind, readTypedNumber } from '@frustum/core'
import { useState } from 'react'
import { useAddInstrumentMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from './Field.tsx'

interface NewInstrumentProps {
  kinds: readonly InstrumentKind[]
  /** In which its uncertainty may be stated; none where it is not asked. */
  units: readonly string[]
  /** One that is known, noted anew. */
  start?: InstrumentView
  onClose: () => void
  onAdded: (list: readonly InstrumentView[], added: InstrumentView) => void
}

/** An instrument by its name. Not a form of its own: it may stand within the one of a step. */
export function NewInstrument({ kinds, units, start, onClose, onAdded }: NewInstrumentProps) {
  const { operator } = useAppSelector(actorOf)
  const [add, { isLoading }] = useAddInstrumentMutation()
  const [kind, setKind] = useState<InstrumentKind>(start?.kind ?? kinds[0] ?? 'hand-meter')
  const [unit, setUnit] = useState(start?.unit || (units[0] ?? ''))
  const [texts, setTexts] = useState({
    name: start?.name ?? '',
    serial: start?.serial ?? '',
    calibratedOn: '',
    uncertainty: start?.uncertainty == null ? '' : String(start.uncertainty),
  })
  const [problems, setProblems] = useState<Record<string, string>>({})
  const type = (key: keyof typeof texts) => (e: { target: { value: string } }) =>
    setTexts((before) => ({ ...before, [key]: e.target.value }))
  const save = async () => {
    const width = readTypedNumber(texts.uncertainty)
    if (texts.uncertainty.trim() !== '' && !width.ok) {
      setProblems({ uncertainty: 'Type it as a number, such as 0.02.' })
      return
    }
    const answer = await add({
      operator,
      kind,
      name: texts.name.trim(),
      serial: texts.serial.trim(),
      ...(texts.calibratedOn ? { calibratedOn: texts.calibratedOn } : {}),
      ...(width.ok ? { uncertainty: width.value, unit } : {}),
    })
    if (answer.error) {
      const { fields, message } = problemOf(answer.error)
      setProblems(fields ?? { name: message })
      return
    }
    const added = answer.data.filter((i) => i.name === texts.name.trim()).at(-1)
    if (added) onAdded(answer.data, added)
  }
  return (
    <fieldset className="mt-2 space-y-1 border-l-4 border-base-300 pl-4">
      <legend className="sr-only">A new instrument</legend>
      {kinds.length > 1 && (
        <label className="block pb-2">
          <span className="block font-bold">What it is</span>
          <select
            className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
            value={kind}
            onChange={(e) => setKind(e.target.value as InstrumentKind)}
          >
            {kinds.map((k) => (
              <option key={k} value={k}>
                {INSTRUMENT_KINDS[k].label}
              </option>
            ))}
          </select>
        </label>
      )}
      <Field label="Name" unit="" wide error={problems.name} value={texts.name} onChange={type('name')} />
      <Field
        label="Serial number (optional)"
        unit=""
        wide
        error={problems.serial}
        value={texts.serial}
        onChange={type('serial')}
      />
      <Field
        label="Calibrated on (optional)"
        unit=""
        wide
        type="date"
        error={problems.calibratedOn}
        value={texts.calibratedOn}
        onChange={type('calibratedOn')}
      />
      {units.length > 1 && (
        <label className="block pb-2">
          <span className="block font-bold">Reads in</span>
          <select
            className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
            value={unit}
            onChange={(e) => setUnit(e.target.value)}
          >
            {units.map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
      )}
      {unit !== '' && (
        <Field
          label="Good to ± (optional)"
          unit={unit}
          error={problems.uncertainty}
          value={texts.uncertainty}
          onChange={type('uncertainty')}
        />
      )}
      <div className="flex flex-wrap gap-3">
        <button type="button" className="slant" disabled={isLoading} onClick={() => void save()}>
          {start ? 'Note it' : 'Add it'}
        </button>
        <button type="button" className="slant slant-plain" onClick={onClose}>
          Back
        </button>
      </div>
    </fieldset>
  )
}
