import { type PersonView, switchBody } from '@frustum/contract'
import { ROLES } from '@frustum/core'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useMeQuery, useSignOutMutation, useSwitchPersonMutation } from '../../store/api.ts'
import { Field } from '../bench/Field.tsx'
import { useSecretForm } from './useSecretForm.ts'

/** Who is at this tablet now: another takes over by PIN, or everybody is out. */
export function SwitchPerson({ onClose }: { onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  const { data: me } = useMeQuery()
  const [signOut] = useSignOutMutation()
  const [next, setNext] = useState<PersonView | null>(null)
  useEffect(() => dialog.current?.showModal(), [])
  if (!me?.person) return null
  const able = [me.person, ...me.others].filter((p) => p.hasPin && (p !== me.person || me.by === 'pin'))
  return (
    <dialog ref={dialog} className="modal" onClose={onClose} aria-labelledby="person-title">
      <div className="modal-box max-w-md border border-base-300 bg-base-100 p-6">
        <h2 id="person-title" className="text-xl">
          {me.person.name}
        </h2>
        <p className="soft">
          {me.role && ROLES[me.role]}
          {me.by === 'pin' && ', by PIN'}
        </p>
        <p className="flex flex-wrap gap-x-6 pt-2">
          <Link to="/me" className="min-h-11 content-center underline underline-offset-4" onClick={onClose}>
            Your units, password and PIN
          </Link>
        </p>
        <h3 className="pt-4 pb-2 text-lg font-bold">Somebody else is here</h3>
        {able.length === 0 && <p className="soft">Nobody else has a PIN yet: each sets one on their own page.</p>}
        <div className="flex flex-wrap gap-3">
          {able
            .filter((p) => p.id !== me.person?.id)
            .map((p) => (
              <button
                key={p.id}
                type="button"
                aria-pressed={next?.id === p.id}
                className={`slant ${next?.id === p.id ? 'slant-strong' : ''}`}
                onClick={() => setNext(p)}
              >
                {p.name}
              </button>
            ))}
        </div>
        {next && <PinForm key={next.id} person={next} onDone={onClose} />}
        <div className="mt-6 flex flex-wrap gap-4 border-t border-base-300 pt-4">
          <button type="button" className="slant" onClick={() => void signOut({ everywhere: false })}>
            Sign out
          </button>
          <button type="button" className="slant slant-plain" onClick={onClose}>
            Back
          </button>
        </div>
      </div>
    </dialog>
  )
}

function PinForm({ person, onDone }: { person: PersonView; onDone: () => void }) {
  const [switchPerson, { isLoading }] = useSwitchPersonMutation()
  const { form, told, errorOf, refused } = useSecretForm(switchBody, { person: String(person.id), pin: '' })
  useEffect(() => form.setFocus('pin'), [form])
  return (
    <form
      noValidate
      aria-label={`PIN of ${person.name}`}
      className="pt-4"
      onSubmit={(e) =>
        void form.handleSubmit(async (typed) => {
          if (told(await switchPerson(typed))) onDone()
        })(e)
      }
    >
      <Field
        label={`PIN of ${person.name}`}
        unit=""
        type="password"
        inputMode="numeric"
        autoComplete="off"
        error={errorOf('pin') ?? refused}
        {...form.register('pin')}
      />
      <button type="submit" className="slant slant-strong" disabled={isLoading}>
        Take over
      </button>
    </form>
  )
}
