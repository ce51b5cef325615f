import { type ComponentProps, useId } from 'react'

interface FieldProps extends ComponentProps<'input'> {
  label: string
  unit: string
  error: string | undefined
  hint?: string | undefined
  /** Within what it must lie: said while it is typed. */
  limits?: string | undefined
  /** The row of a table in which it stands: said before the label to who cannot see it. */
  row?: string | undefined
  /** Numbers get the keypad; text the whole width. */
  wide?: boolean
  /** Several lines of text. */
  lines?: boolean | undefined
  /** What is likely meant. */
  suggestions?: readonly string[] | undefined
}

/** One thing to type: large, with its unit, and its own sentence when something is wrong. */
export function Field({
  label,
  unit,
  error,
  hint,
  limits,
  row,
  wide = false,
  lines = false,
  suggestions = [],
  ...input
}: FieldProps) {
  const id = useId()
  const described = { id, 'aria-invalid': error !== undefined, 'aria-describedby': `${id}-problem` }
  return (
    <div className={`group max-sm:pb-2 ${wide ? 'w-96 max-w-full' : 'w-48'}`}>
      <label htmlFor={id} className="font-bold">
        {row && <span className="sr-only">{row}: </span>}
        {label}
      </label>
      <div className="flex items-center gap-2">
        {lines ? (
          <textarea
            rows={3}
            className={`w-full border bg-base-100 px-3 py-2 text-lg ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
            {...described}
            {...(input as ComponentProps<'textarea'>)}
          />
        ) : (
          <input
            inputMode={wide ? 'text' : 'decimal'}
            autoComplete="off"
            className={`h-12 ${wide ? 'w-full' : 'w-32'} border bg-base-100 px-3 text-xl ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
            list={suggestions.length > 0 ? `${id}-likely` : undefined}
            {...described}
            {...input}
          />
        )}
        {suggestions.length > 0 && (
          <datalist id={`${id}-likely`}>
            {suggestions.map((text) => (
              <option key={text} value={text} />
            ))}
          </datalist>
        )}
        <span className="soft">{unit}</span>
      </div>
      <p id={`${id}-problem`} role="alert" className={`min-h-6 text-sm ${error ? 'text-error' : 'soft'}`}>
        {error ?? hint ?? (limits && <span className="invisible group-focus-within:visible">{limits}</span>)}
      </p>
    </div>
  )
}
