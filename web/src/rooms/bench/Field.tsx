import { type ComponentProps, useId } from 'react'

interface FieldProps extends ComponentProps<'input'> {
  label: string
  unit: string
  error: string | undefined
}

/** One number to type: large, with its unit, and its own sentence when something is wrong. */
export function Field({ label, unit, error, ...input }: FieldProps) {
  const id = useId()
  return (
    <div className="w-52">
      <label htmlFor={id} className="font-bold">
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          inputMode="decimal"
          autoComplete="off"
          className={`h-12 w-36 border bg-base-100 px-3 text-xl ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
          aria-invalid={error !== undefined}
          aria-describedby={`${id}-problem`}
          {...input}
        />
        <span className="soft">{unit}</span>
      </div>
      <p id={`${id}-problem`} role="alert" className="min-h-6 text-sm text-error">
        {error ?? ''}
      </p>
    </div>
  )
}
