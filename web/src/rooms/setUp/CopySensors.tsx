import type { RigPosition, RigView } from '@frustum/contract'
import { copiedCode, type FieldSpec, kindOf } from '@frustum/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { plural } from '../../components/format.ts'
import { useCopyPositionsMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import type { FormTexts } from '../bench/formTexts.ts'
import { useTypedForm } from '../bench/useTypedForm.ts'
import { PutInUse } from './PutInUse.tsx'

interface CopySensorsProps {
  rig: RigView
  /** What is copied, in words: "CH-pH-1", "Pool controller". */
  of: string
  originals: readonly RigPosition[]
}

const codeKey = (p: RigPosition) => `code-${p.id}`
const spotKey = (p: RigPosition) => `spot-${p.id}`

const placeOf = (rig: RigView, [first]: readonly RigPosition[]) =>
  rig.places.find((p) => p.id === first?.placeId)?.name ?? ''

/** The next free code of each copy at a place. */
function proposedCodes(rig: RigView, to: string, originals: readonly RigPosition[]): FormTexts {
  const taken = [...rig.codes]
  const from = placeOf(rig, originals)
  return Object.fromEntries(
    originals.map((p) => {
      const code = copiedCode(p.code, { from, to }, taken)
      taken.push(code)
      return [codeKey(p), code]
    }),
  )
}

/** Copies a sensor, a device with its sensors, or a place: only the place and the codes are new. */
export function CopySensors({ rig, of, originals }: CopySensorsProps) {
  const here = placeOf(rig, originals)
  const fields: FieldSpec[] = [
    { key: 'placeName', label: 'Place', kind: 'text' },
    ...originals.flatMap((p): FieldSpec[] => [
      { key: codeKey(p), label: 'Code', kind: 'text' },
      { key: spotKey(p), label: 'Spot', kind: 'text', optional: true },
    ]),
  ]
  const { form, draft } = useTypedForm(fields, `copy:${originals.map((p) => p.id).join()}`, {
    placeName: here,
    ...proposedCodes(rig, here, originals),
    ...Object.fromEntries(originals.map((p) => [spotKey(p), p.spot])),
  })
  const [copy, { isLoading }] = useCopyPositionsMutation()
  const { operator } = useAppSelector(actorOf)
  const [made, setMade] = useState<{ position: string; id: number }[] | null>(null)
  const { errors, dirtyFields } = form.formState
  const errorOf = (key: string) => errors[key]?.message as string | undefined
  // Codes follow the place until they are edited.
  const followPlace = (place: string) => {
    for (const [key, code] of Object.entries(proposedCodes(rig, place, originals)))
      if (!dirtyFields[key]) form.setValue(key, code)
    draft.keep(form.getValues())
  }
  const save = form.handleSubmit(async (texts) => {
    const text = (key: string) => String(texts[key] ?? '').trim()
    const sensors = originals.map((p) => ({ id: p.id, code: text(codeKey(p)), spot: text(spotKey(p)) }))
    const answer = await copy({ operator, placeName: text('placeName'), sensors })
    if (answer.data) {
      draft.clear()
      setMade(answer.data)
      return
    }
    const { fields: wrong = {}, message, hint } = problemOf(answer.error)
    for (const [key, why] of Object.entries(wrong)) form.setError(key, { message: why })
    toast.error(message, { description: hint })
  })
  if (made) return <Copied made={made} />
  const place = form.register('placeName')
  return (
    <form
      onSubmit={(e) => void save(e)}
      onChange={() => draft.keep(form.getValues())}
      noValidate
      aria-label={`Copy ${of}`}
      className="mx-auto w-full max-w-4xl px-5 py-6"
    >
      <h1 className="text-2xl">Copy {of}</h1>
      <p className="max-w-prose pt-1 pb-4 text-pretty soft">
        {originals.length > 1 && `${plural(originals.length, 'sensor')}. `}
        Settings, tolerances and rules are copied. The copy is read manually until you connect its device.
      </p>
      <Field
        label="Place"
        unit=""
        wide
        suggestions={rig.places.filter((p) => !p.archived).map((p) => p.name)}
        error={errorOf('placeName')}
        {...place}
        onChange={(e) => {
          void place.onChange(e)
          followPlace(e.target.value)
        }}
      />
      <ul>
        {originals.map((p) => (
          <li key={p.id} className="grid gap-x-8 border-t border-base-300 pt-3 sm:grid-cols-[14rem_auto_1fr]">
            <p className="sm:pt-8">
              <strong>{p.code}</strong>
              <span className="block text-sm soft">{kindOf(p.kind).name}</span>
            </p>
            <Field label="Code" row={p.code} unit="" error={errorOf(codeKey(p))} {...form.register(codeKey(p))} />
            <Field
              label="Spot"
              row={p.code}
              unit=""
              hint="Optional. Tank, line, sump."
              error={errorOf(spotKey(p))}
              {...form.register(spotKey(p))}
            />
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap items-center gap-6 pt-4">
        <button type="submit" className="slant slant-strong min-h-14 px-9 text-xl" disabled={isLoading}>
          {originals.length > 1 ? `Add ${plural(originals.length, 'sensor')}` : 'Add sensor'}
        </button>
        <Link to="/rig" className="slant slant-plain">
          Cancel
        </Link>
      </div>
    </form>
  )
}

function Copied({ made }: { made: readonly { position: string; id: number }[] }) {
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-8">
      <h1 className="text-2xl">
        {made.length > 1 ? `${plural(made.length, 'sensor')} added` : `${made[0]?.position} added`}
      </h1>
      <ul className="py-4">
        {made.map(({ position, id }) => (
          <li key={id} className="flex flex-wrap items-center gap-4 border-b border-base-300 py-3">
            <strong className="grow">{position}</strong>
            <PutInUse position={position} id={id} />
            <Link to={`/bench/start/${encodeURIComponent(position)}`} className="slant">
              Commission new sensor
            </Link>
          </li>
        ))}
      </ul>
      <Link to="/" className="min-h-11 content-center underline underline-offset-4">
        Later: to Rounds
      </Link>
    </div>
  )
}
