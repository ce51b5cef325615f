import { type ComponentProps, useId } from 'react'

interface FieldProps extends ComponentProps<'input'> {
  label: string
  unit: string
  error: string | undefined
  hint?: string | undefined
  /** Numbers get the keypad; text the whole width. */
  wide?: boolean
}

/** One thing to type: large, with its unit, and its own sentence when something is wrong. */
export function Field({ label, unit, error, hint, wide = false, ...input }: FieldProps) {
  const id = useId()
  return (
    <div className={wide ? 'w-full max-w-md' : 'w-56'}>
      <label htmlFor={id} className="font-bold">
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          inputMode={wide ? 'text' : 'decimal'}
          autoComplete="off"
          className={`h-12 ${wide ? 'w-full' : 'w-36'} border bg-base-100 px-3 text-xl ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
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
