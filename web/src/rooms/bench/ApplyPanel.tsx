import { shownAfterFields, type VisitView } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { useForm } from 'react-hook-form'
import { useHotkeys } from 'react-hotkeys-hook'
import { text } from '../../components/format.ts'
import { Field } from './Field.tsx'

interface ApplyPanelProps {
  visit: VisitView
  busy: boolean
  onApply: (way: 'link' | 'keyed', shownAfter?: string) => Promise<Record<string, string> | null>
}

/** The numbers into the device: over the link where it can, by the operator's fingers where it cannot. */
export function ApplyPanel({ visit, busy, onApply }: ApplyPanelProps) {
  const form = useForm({ resolver: yupResolver(shownAfterFields(visit.typing)), defaultValues: { shownAfter: '' } })
  useHotkeys('space', () => void onApply('link'), { preventDefault: true, enabled: visit.writable && !busy })
  const numbers = visit.result?.apply ?? []
  const keyed = form.handleSubmit(async ({ shownAfter }) => {
    const problems = await onApply('keyed', shownAfter)
    if (problems?.shownAfter) form.setError('shownAfter', { message: problems.shownAfter })
  })
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
          onClick={() => void onApply('link')}
        >
          Write to the device <kbd className="key">Space</kbd>
        </button>
      )}
      <form
        onSubmit={(e) => void keyed(e)}
        noValidate
        className="flex flex-wrap items-start gap-6 border-t border-base-300 pt-4"
      >
        <p className="w-full soft">
          {visit.writable
            ? 'Or key them in by hand, and type what it shows afterwards:'
            : 'Key these in on the device. What does it show now, where the sensor is?'}
        </p>
        <Field
          label="Shows afterwards"
          unit={visit.typing.unit}
          error={form.formState.errors.shownAfter?.message}
          {...form.register('shownAfter')}
        />
        <button type="submit" className={`slant mt-6 ${visit.writable ? '' : 'slant-strong'}`} disabled={busy}>
          Confirm entry
        </button>
      </form>
    </div>
  )
}
