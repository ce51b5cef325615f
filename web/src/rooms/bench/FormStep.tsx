import type { VisitLive, VisitView } from '@frustum/contract'
import type { FieldSpec, Step } from '@frustum/core'
import { useEffect } from 'react'
import { toast } from 'sonner'
import { type BenchParts, beforeReading } from '../../extensions/BenchExtensions.tsx'
import { FormFields } from './FormFields.tsx'
import { Skip } from './StepButtons.tsx'
import { useLatest } from './useDraft.ts'
import { useTypedForm } from './useTypedForm.ts'
import type { useVisitActions } from './useVisitActions.ts'

interface FormStepProps {
  visit: VisitView
  step: Step
  live: VisitLive | null
  parts: BenchParts
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

/** Something to type in. What was typed stays when the page is left by mistake, and when the server refuses it. */
export function FormStep({ visit, step, live, parts, busy, run }: FormStepProps) {
  const fields = step.fields ?? []
  const { form, draft } = useTypedForm(fields, `${visit.id}:${step.key}`)
  const latest = useLatest(live)
  const { setFocus } = form
  const first = fields.find((f) => f.kind === 'number' || f.kind === 'text')?.key
  // biome-ignore lint/correctness/useExhaustiveDependencies: at each step anew
  useEffect(() => {
    if (first) setFocus(first)
  }, [setFocus, first, step.key])
  const submit = form.handleSubmit(async (values) => {
    const problem = await run('fill', { step: step.key, values })
    if (problem?.fields) {
      for (const [key, message] of Object.entries(problem.fields)) form.setError(key, { message })
      return
    }
    if (!problem) draft.clear()
  })
  const fill = async (field: FieldSpec) => {
    await beforeReading(parts, field)
    const reading = latest.current
    const shown = reading?.shown ?? reading?.value
    if (shown == null || reading?.blindSince) {
      toast.error('The device does not answer.', { description: 'Type what it shows.' })
      return
    }
    const decimals = field.decimals ?? 2
    form.setValue(field.key, (Number(shown.toFixed(decimals)) + 0).toFixed(decimals), { shouldValidate: true })
    draft.keep(form.getValues())
  }
  return (
    <form
      onSubmit={(e) => void submit(e)}
      onChange={() => draft.keep(form.getValues())}
      noValidate
      className="space-y-4"
    >
      <FormFields fields={fields} form={form} onFill={visit.linked ? (field) => void fill(field) : undefined} />
      <div className="flex flex-wrap gap-5">
        <button
          type="submit"
          className="slant slant-strong min-h-14 px-9 text-xl max-sm:w-[94%]"
          disabled={busy || form.formState.isSubmitting}
          data-testid="main"
        >
          {step.main}
        </button>
        <Skip
          key={step.key}
          step={step}
          disabled={busy}
          onSkip={(reason) => void run('skip', { step: step.key, reason })}
        />
      </div>
    </form>
  )
}
