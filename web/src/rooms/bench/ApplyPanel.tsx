import { shownAfterFields, type VisitView } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { useHotkeys } from 'react-hotkeys-hook'
import { text } from '../../components/format.ts'
import { Field } from './Field.tsx'

interface ApplyPanelProps {
  visit: VisitView
  busy: boolean
  onApply: (given: {
    way: 'link' | 'keyed'
    shownAfter?: string
    why?: string
  }) => Promise<Record<string, string> | null>
}

/** The numbers into the device: over the link where it can, by the operator's fingers where it cannot. */
export function ApplyPanel({ visit, busy, onApply }: ApplyPanelProps) {
  const form = useForm({
    resolver: yupResolver(shownAfterFields(visit.display)),
    defaultValues: { shownAfter: '', why: '' },
  })
  // Asked for only once a number was shown that is not what it should be.
  const [differs, setDiffers] = useState(false)
  const write = () => void onApply({ way: 'link' })
  useHotkeys('space', write, { preventDefault: true, enabled: visit.writable && !busy })
  const numbers = visit.result?.apply ?? []
  const keyed = form.handleSubmit(async ({ shownAfter, why }) => {
    const problems = await onApply({ way: 'keyed', shownAfter, ...(why ? { why } : {}) })
    for (const field of ['shownAfter', 'why'] as const) {
      const message = problems?.[field]
      if (message) form.setError(field, { message })
    }
    if (problems?.why) setDiffers(true)
  })
  const readBack = () => void onApply({ way: 'keyed' })
  return (
    <div className="space-y-6">
      <dl className="flex flex-wrap gap-x-12 gap-y-4">
        {numbers.map((n) => (
          <div key={n.key}>
            <dt className="soft">{n.label}</dt>
            <dd className="text-4xl font-bold sm:text-5xl">{text(n.keyed)}</dd>
          </div>
        ))}
      </dl>
      {visit.writable && (
        <button
          type="button"
          className="slant slant-strong min-h-14 px-8 text-xl max-sm:w-full"
          disabled={busy}
          onClick={write}
        >
          Write to the device <kbd className="key">Space</kbd>
        </button>
      )}
      {visit.readsBack ? (
        <div className="flex flex-wrap items-center gap-6 border-t border-base-300 pt-4">
          <p className="w-full soft">
            {visit.writable ? 'Or key them in by hand' : 'Key these in on the device and save them there'}; they are
            read back at once.
          </p>
          <button
            type="button"
            className={`slant ${visit.writable ? '' : 'slant-strong'}`}
            disabled={busy}
            onClick={readBack}
          >
            Keyed in: read back
          </button>
        </div>
      ) : (
        <form
          onSubmit={(e) => void keyed(e)}
          noValidate
          className="flex flex-wrap items-start gap-6 border-t border-base-300 pt-4"
        >
          <p className="w-full soft">
            Key these in on the device and save them there. Leave the sensor where it is, and type what the display
            shows now.
          </p>
          <Field
            label={`Shows now, ${visit.display.what}`}
            unit={visit.display.unit}
            error={form.formState.errors.shownAfter?.message}
            {...form.register('shownAfter')}
          />
          {differs && (
            <Field
              label="Why does that stand?"
              unit=""
              error={form.formState.errors.why?.message}
              {...form.register('why')}
            />
          )}
          <button type="submit" className="slant slant-strong mt-6" disabled={busy}>
            Confirm entry
          </button>
        </form>
      )}
    </div>
  )
}
