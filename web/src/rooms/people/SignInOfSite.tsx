import { askSignInBody, PASSWORD_LENGTH } from '@frustum/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { useAskSignInMutation, useMeQuery, useSiteQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { useSecretForm } from './useSecretForm.ts'

/** Whether people sign in here: off where one works alone at this machine, on wherever others reach it. */
export function SignInOfSite() {
  const { data: me } = useMeQuery()
  const { data: site } = useSiteQuery()
  const [askSignIn, { isLoading }] = useAskSignInMutation()
  const { operator } = useAppSelector(actorOf)
  const [begins, setBegins] = useState(false)
  if (!me || !site?.exists) return null
  const off = async () => {
    const { error } = await askSignIn({ on: false })
    if (error) toast.error(problemOf(error).message, { description: problemOf(error).hint })
  }
  return (
    <section aria-label="Signing in" className="border-b border-base-300 py-5">
      <h2 className="text-lg font-bold">Signing in</h2>
      {me.signIn ? (
        <>
          <p className="max-w-prose pt-1 pb-3 text-pretty">
            People sign in, and records name who did. What each may do stands under Rig, People.
            {me.mustSignIn && ' Others reach this server, so it cannot be switched off.'}
          </p>
          <div className="flex flex-wrap gap-4">
            <Link to="/site/changes" className="slant">
              Who did what
            </Link>
            {!me.mustSignIn && (
              <button type="button" className="slant slant-plain" disabled={isLoading} onClick={() => void off()}>
                Switch off
              </button>
            )}
          </div>
        </>
      ) : (
        <>
          <p className="max-w-prose pt-1 pb-3 text-pretty">
            This server answers this machine alone, and nobody signs in. Switch it on where several people work here:
            each then has a role, and records name who was signed in.
          </p>
          {begins ? (
            <First name={operator} />
          ) : (
            <div className="flex flex-wrap gap-4">
              <button type="button" className="slant" onClick={() => setBegins(true)}>
                Switch on
              </button>
              <Link to="/site/changes" className="min-h-11 content-center underline underline-offset-4">
                Who did what
              </Link>
            </div>
          )}
        </>
      )}
    </section>
  )
}

/** Whoever switches it on is the first lead. */
function First({ name }: { name: string }) {
  const [askSignIn, { isLoading }] = useAskSignInMutation()
  const { form, told, errorOf, refused } = useSecretForm(askSignInBody.omit(['on']), { name, password: '' })
  return (
    <form
      noValidate
      aria-label="First lead"
      onSubmit={(e) =>
        void form.handleSubmit(
          async (typed) => void told(await askSignIn({ on: true, ...typed }), 'People sign in from now on.'),
        )(e)
      }
    >
      <p className="pb-2">
        <strong>{name}</strong> becomes a lead, with this password:
      </p>
      <Field
        label="Password"
        unit=""
        wide
        type="password"
        autoComplete="new-password"
        hint={`${PASSWORD_LENGTH.least} characters or more. If you had one here before, that one.`}
        error={errorOf('password') ?? refused}
        {...form.register('password')}
      />
      <button type="submit" className="slant slant-strong" disabled={isLoading}>
        Switch on
      </button>
    </form>
  )
}
