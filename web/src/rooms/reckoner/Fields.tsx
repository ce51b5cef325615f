import { type GivenChoice, type GivenNumber, type LinkedField, type SheetResult, show } from '@frustum/core/reckoner'
import { useId } from 'react'
import { entryOf } from './useSheet.ts'

const INPUT =
  'min-h-11 w-full border-b-2 bg-base-200 px-3 font-mono outline-offset-0 aria-invalid:border-error border-base-300 focus:border-primary'

function Problem({ id, text }: { id: string; text: string | undefined }) {
  return (
    <p id={id} role={text ? 'alert' : undefined} className="text-sm font-bold text-error">
      {text}
    </p>
  )
}

interface GivenInput {
  text: string
  problem: string | undefined
  readAs: string | undefined
  onText(text: string): void
}

export function GivenNumberField({ field, text, problem, readAs, onText }: GivenInput & { field: GivenNumber }) {
  const id = useId()
  return (
    <div className="py-1">
      <label htmlFor={id} className="block pb-1 text-sm soft">
        {field.label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          className={`${INPUT} text-lg`}
          inputMode="decimal"
          autoComplete="off"
          value={text}
          aria-invalid={problem !== undefined}
          aria-describedby={`${id}-problem`}
          onFocus={(e) => e.target.select()}
          onChange={(e) => onText(e.target.value)}
        />
        <span className="w-16 shrink-0">{field.unit}</span>
      </div>
      {readAs && <p className="text-sm soft">read as {readAs}</p>}
      {field.hint && !problem && <p className="text-sm soft">{field.hint}</p>}
      <Problem id={`${id}-problem`} text={problem} />
    </div>
  )
}

/** Longer words than this need the whole width. */
const LONG_OPTION = 20

export function GivenChoiceField({
  field,
  value,
  onValue,
}: {
  field: GivenChoice
  value: string
  onValue(value: string): void
}) {
  const id = useId()
  const long = field.options.some((o) => o.label.length > LONG_OPTION)
  return (
    <div className={`py-1 ${long ? 'sm:col-span-2' : ''}`}>
      <label htmlFor={id} className="block pb-1 text-sm soft">
        {field.label}
      </label>
      <select
        id={id}
        className="min-h-11 w-full border-b-2 border-base-300 bg-base-200 px-3 focus:border-primary"
        value={value}
        onChange={(e) => onValue(e.target.value)}
      >
        {field.options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </select>
    </div>
  )
}

interface LinkedRow {
  field: LinkedField
  held: boolean
  /** As typed, while it is held. */
  heldText: string
  result: SheetResult['linked'][number] | undefined
  /** Why it is greyed; null while it holds. */
  stale: string | null
  problem: string | undefined
  readAs: string | undefined
  onHold(text: string): void
}

/** One of the quantities that hang together: type into it and it is held, the others follow. */
export function LinkedFieldRow({ field, held, heldText, result, stale, problem, readAs, onHold }: LinkedRow) {
  const id = useId()
  const following = result ? entryOf(result.value, field) : ''
  const grey = !held && stale
  return (
    <div className="relative grid grid-cols-[4.5rem_1fr] items-start gap-x-4 py-2">
      <button
        type="button"
        aria-pressed={held}
        aria-label={`Hold ${field.label}`}
        title={held ? 'Held: the others follow it' : 'Hold this one'}
        className={`hold mt-6 ${held ? 'hold-on' : ''}`}
        onClick={() => !held && onHold(following)}
        disabled={!held && following === ''}
      >
        {held ? 'held' : 'hold'}
      </button>
      <div>
        <label htmlFor={id} className="block pb-1">
          {field.label}
        </label>
        <div className="flex items-center gap-2">
          <input
            id={id}
            className={`${INPUT} text-2xl ${grey ? 'soft' : ''} ${held ? 'border-primary font-bold' : ''}`}
            inputMode="decimal"
            autoComplete="off"
            value={held ? heldText : following.replace('-', '\u2212')}
            aria-invalid={problem !== undefined}
            aria-describedby={`${id}-more ${id}-problem`}
            onFocus={(e) => e.target.select()}
            onChange={(e) => onHold(e.target.value)}
          />
          <span className="w-20 shrink-0">{field.unit}</span>
        </div>
        <p id={`${id}-more`} className="text-sm soft">
          {readAs && `read as ${readAs} `}
          {result?.uncertainty != null && !grey && `± ${show(result.uncertainty, { figures: 2 })} ${field.unit}`}
          {grey}
        </p>
        <Problem id={`${id}-problem`} text={problem} />
      </div>
    </div>
  )
}
