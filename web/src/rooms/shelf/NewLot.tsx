import { decimalMark } from '@frustum/contract/decimalMark'
import { readTypedNumber, readTypedTemperature, standardOf, standards, USUAL_KEEPING } from '@frustum/core'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { useAddLotMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'

interface Texts {
  standard: string
  lot: string
  expiresOn: string
  keepsDays: string
  volume: string
  storage: string
  table: string
}

function usualOf(code: string): Pick<Texts, 'keepsDays' | 'storage'> {
  const { days, storage } = standardOf(code).keeping ?? USUAL_KEEPING
  return { keepsDays: String(days), storage }
}

const ROW = /^\s*(-?[\d.,]+\s*(?:°?\s*[CF])?)\s*[;:\t ]\s*(-?[\d.,]+)\s*$/i

/** Rows of "temperature value", one a line; null when a line is none of those. */
function readTable(text: string): { temperatures: number[]; values: number[] } | null {
  const lines = text.split('\n').filter((l) => l.trim() !== '')
  const pairs = lines.map((line) => {
    const found = ROW.exec(line)
    const [t, v] = [
      readTypedTemperature(found?.[1] ?? '', decimalMark()),
      readTypedNumber(found?.[2] ?? '', decimalMark()),
    ]
    return t.ok && v.ok ? ([t.value, v.value] as const) : null
  })
  if (pairs.length < 2 || pairs.some((p) => p === null)) return null
  const rows = pairs.filter((p) => p !== null).sort((a, b) => a[0] - b[0])
  return { temperatures: rows.map((r) => r[0]), values: rows.map((r) => r[1]) }
}

/** A new bottle, from its label; of the standard that is needed, where that is known. */
export function NewLot({ standard = 'pH7.00', onDone }: { standard?: string; onDone: () => void }) {
  const [add] = useAddLotMutation()
  const { operator } = useAppSelector(actorOf)
  const [ownTable, setOwnTable] = useState(false)
  const form = useForm<Texts>({
    defaultValues: {
      standard,
      lot: '',
      // From the label: a date of ours would be kept unread.
      expiresOn: '',
      volume: '500',
      table: '',
      ...usualOf(standard),
    },
  })
  const { errors, isSubmitting } = form.formState
  const submit = form.handleSubmit(async ({ table, keepsDays, volume, ...rest }) => {
    const [days, millilitres] = [readTypedNumber(keepsDays, decimalMark()), readTypedNumber(volume, decimalMark())]
    if (!days.ok) return form.setError('keepsDays', { message: 'Type the days as a number.' })
    if (!millilitres.ok) return form.setError('volume', { message: 'Type the volume in mL.' })
    const rows = ownTable ? readTable(table) : null
    if (ownTable && !rows) {
      return form.setError('table', { message: 'Two lines or more, each a temperature and a value: 20 7.02' })
    }
    const answer = await add({
      ...rest,
      operator,
      keepsDays: Math.round(days.value),
      volume: millilitres.value,
      ...(rows ? { ownTable: rows } : {}),
    } as Parameters<typeof add>[0])
    if (answer.data) {
      onDone()
      return
    }
    const problem = problemOf(answer.error)
    if (!problem.fields) toast.error(problem.message)
    for (const [key, message] of Object.entries(problem.fields ?? {})) {
      form.setError(key === 'ownTable' ? 'table' : (key as keyof Texts), { message })
    }
  })
  return (
    <form
      onSubmit={(e) => void submit(e)}
      noValidate
      aria-label="A new bottle"
      className="mt-4 space-y-3 border border-[color:var(--line)] p-4"
    >
      <p className="pb-2">
        <Link to="/rig/standard/new" className="inline-flex min-h-11 items-center underline underline-offset-4">
          It is none of these: enter it as its bottle says
        </Link>
      </p>
      <div className="flex flex-wrap gap-x-6 gap-y-2">
        <label className="block">
          <span className="block font-bold">Standard</span>
          <select
            className="h-12 w-72 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            {...form.register('standard', {
              onChange: (e: { target: { value: string } }) => {
                const usual = usualOf(e.target.value)
                form.setValue('keepsDays', usual.keepsDays)
                form.setValue('storage', usual.storage)
              },
            })}
          >
            {standards()
              .filter((s) => !s.archived)
              .map((s) => (
                <option key={s.code} value={s.code}>
                  {s.label}
                </option>
              ))}
          </select>
        </label>
        <div className="w-56">
          <label htmlFor="lot-number" className="font-bold">
            Lot number
          </label>
          <input
            id="lot-number"
            className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3 font-mono text-xl"
            aria-invalid={errors.lot !== undefined}
            aria-describedby="lot-problem"
            {...form.register('lot')}
          />
          <p id="lot-problem" role="alert" className="min-h-6 text-sm text-error">
            {errors.lot?.message ?? ''}
          </p>
        </div>
        <label className="block">
          <span className="block font-bold">Expires on</span>
          <input
            type="date"
            className="h-12 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            {...form.register('expiresOn')}
          />
          <span role="alert" className="block min-h-6 text-sm text-error">
            {errors.expiresOn?.message ?? ''}
          </span>
        </label>
        <Field
          label="Keeps after opening"
          unit="days"
          error={errors.keepsDays?.message}
          {...form.register('keepsDays')}
        />
        <Field label="Volume" unit="mL" error={errors.volume?.message} {...form.register('volume')} />
        <Field label="Stored" unit="" wide error={errors.storage?.message} {...form.register('storage')} />
      </div>
      <label className="flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          className="checkbox border-[color:var(--line)]"
          checked={ownTable}
          onChange={(e) => setOwnTable(e.target.checked)}
        />
        The label has a table of its own; it counts for this lot
      </label>
      {ownTable && (
        <label className="block">
          <span className="block font-bold">Temperature and value, a line each</span>
          <textarea
            rows={5}
            className="w-72 border border-[color:var(--line)] bg-base-100 p-3 font-mono"
            placeholder={'15 7.04\n20 7.02\n25 7.00'}
            {...form.register('table')}
          />
          <span role="alert" className="block text-sm text-error">
            {errors.table?.message ?? ''}
          </span>
        </label>
      )}
      <button type="submit" className="slant slant-strong" disabled={isSubmitting}>
        Save bottle
      </button>
    </form>
  )
}
