import { type LineView, type Mapping, UnreadableField } from '@frustum/contract'
import { useState } from 'react'
import { toast } from 'sonner'
import { useDeleteProfileMutation, useKeepProfileMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

interface ProfilesProps {
  line: LineView
  /** What is in the form. @throws UnreadableField */
  mapping: () => Mapping
}

/** Saves the mapping in the form as a profile for further devices, and archives profiles. */
export function Profiles({ line, mapping }: ProfilesProps) {
  const { operator } = useAppSelector(actorOf)
  const [keep, { isLoading }] = useKeepProfileMutation()
  const [remove] = useDeleteProfileMutation()
  const [name, setName] = useState(line.device.name)
  const own = line.profiles.filter((p) => p.id !== undefined)
  const save = async () => {
    try {
      const answer = await keep({ operator, name: name.trim(), mapping: mapping() as never })
      if (answer.data) toast.success(`Saved as ${name.trim()}.`)
      else toast.error(problemOf(answer.error).message)
    } catch (problem) {
      if (!(problem instanceof UnreadableField)) throw problem
      toast.error(problem.message, { description: 'Correct it and try again.' })
    }
  }
  const putAway = async (id: number) => {
    const answer = await remove({ id: String(id), operator })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  return (
    <details className="pb-2">
      <summary className="min-h-11 w-fit cursor-pointer content-center underline underline-offset-4">
        Your profiles
      </summary>
      <div className="flex flex-wrap items-end gap-3 py-2">
        <label className="block">
          <span className="block text-sm">Name</span>
          <input
            className="h-12 w-72 max-w-full border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            autoComplete="off"
            maxLength={80}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <button type="button" className="slant" disabled={isLoading || name.trim() === ''} onClick={() => void save()}>
          Save profile
        </button>
      </div>
      {own.length > 0 && (
        <ul className="max-w-xl">
          {own.map((p) => (
            <li key={p.id} className="flex items-center justify-between border-t border-base-300">
              {p.name}
              <button
                type="button"
                className="min-h-11 underline underline-offset-4"
                aria-label={`Put ${p.name} away`}
                onClick={() => void putAway(p.id as number)}
              >
                Put away
              </button>
            </li>
          ))}
        </ul>
      )}
    </details>
  )
}
