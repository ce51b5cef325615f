import { type ComponentProps, useId } from 'react'

interface FieldProps extends ComponentProps<'input'> {
  label: string
  unit: string
  error: string | undefined
  hint?: string | undefined
  /** The row of a table in which it stands: said before the label to who cannot see it. */
  row?: string | undefined
  /** Numbers get the keypad; text the whole width. */
  wide?: boolean
}

/** One thing to type: large, with its unit, and its own sentence when something is wrong. */
export function Field({ label, unit, error, hint, row, wide = false, ...input }: FieldProps) {
  const id = useId()
  return (
    <div className={`max-sm:pb-2 ${wide ? 'w-full max-w-md' : 'w-48'}`}>
      <label htmlFor={id} className="font-bold">
        {row && <span className="sr-only">{row}: </span>}
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          inputMode={wide ? 'text' : 'decimal'}
          autoComplete="off"
          className={`h-12 ${wide ? 'w-full' : 'w-32'} border bg-base-100 px-3 text-xl ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
          aria-invalid={error !== undefined}
          aria-describedby={`${id}-problem`}
          {...input}
        />
        <span className="soft">{unit}</span>
      </div>
      <p id={`${id}-problem`} role="alert" className={`min-h-6 text-sm ${error ? 'text-error' : 'soft'}`}>
        {error ?? hint ?? ''}
      </p>
    </div>
  )
}
