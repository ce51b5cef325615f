import { useId } from 'react'

interface ChoiceProps {
  label: string
  value: string
  choices: readonly (readonly [value: string, label: string])[]
  onChoose: (value: string) => void
  error?: string | undefined
  /** The label is said only to who cannot see the table in which it stands. */
  bare?: boolean
}

/** One of several, by a list that every browser has. */
export function Choice({ label, value, choices, onChoose, error, bare = false }: ChoiceProps) {
  const id = useId()
  return (
    <div className="max-w-full">
      <label htmlFor={id} className={bare ? 'sr-only' : 'block font-bold'}>
        {label}
      </label>
      <select
        id={id}
        className={`max-w-full border bg-base-100 ${bare ? 'min-h-12 px-2' : 'min-h-12 px-3 text-lg'} ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
        value={value}
        aria-invalid={error !== undefined}
        onChange={(e) => onChoose(e.target.value)}
      >
        {choices.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
      {!bare && (
        <p role="alert" className="min-h-6 text-sm text-error">
          {error}
        </p>
      )}
    </div>
  )
}
