import { passwordBody, pinBody } from '@frustum/contract'
import { READER_CHOICES, ROLES } from '@frustum/core'
import { Navigate } from 'react-router'
import { toast } from 'sonner'
import { dayTime } from '../../components/format.ts'
import {
  useMeQuery,
  useSetPasswordMutation,
  useSetPinMutation,
  useSetReaderMutation,
  useSignOutMutation,
  useSiteQuery,
} from '../../store/api.ts'
import { problemOf } from '../../store/request.ts'
import { Field } from '../bench/Field.tsx'
import { useSecretForm } from './useSecretForm.ts'

/** One's own page: how numbers are written, the password, the PIN. */
export function MePage() {
  const { data: me } = useMeQuery()
  const { data: site } = useSiteQuery()
  const [signOut] = useSignOutMutation()
  if (me && !me.signIn) return <Navigate to="/rig" replace />
  if (!me?.person) return null
  const { name, hasPin, hasPassword } = me.person
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-6">
      <h1 className="text-2xl">{name}</h1>
      <p className="soft">{me.role && ROLES[me.role]}</p>
      {me.wrongTries.length > 0 && site && (
        <section aria-label="Failed sign-ins" className="mt-5 border border-warning p-4">
          <h2 className="text-lg font-bold">Failed sign-ins</h2>
          <ul className="py-2">
            {me.wrongTries.map(({ at, what }) => (
              <li key={at}>
                <span className="font-mono text-sm soft">{dayTime(at, site.timeZone)}</span> {what}
              </li>
            ))}
          </ul>
          <p className="text-sm soft">If this wasn’t you, change your password and PIN, and tell a lead.</p>
        </section>
      )}
      <Units name={name} />
      {hasPassword && <Password />}
      {hasPassword && <Pin has={hasPin} />}
      <section className="border-t border-base-300 pt-5">
        <h2 className="text-lg font-bold">Signed in elsewhere</h2>
        <p className="max-w-prose pb-3 soft">Lost a phone, or left a tablet signed in: end all of them at once.</p>
        <button type="button" className="slant" onClick={() => void signOut({ everywhere: true })}>
          Sign out everywhere
        </button>
      </section>
    </div>
  )
}

function Units({ name }: { name: string }) {
  const { data: site } = useSiteQuery()
  const [setReader, { isLoading }] = useSetReaderMutation()
  const chosen: Readonly<Record<string, string>> | undefined = site?.readers[name]?.choices
  const choose = async (topic: string, value: string) => {
    const { error } = await setReader({ [topic]: value })
    if (error) toast.error(problemOf(error).message)
  }
  return (
    <section className="py-5">
      <h2 className="pb-2 text-lg font-bold">Units and dates</h2>
      <div className="grid gap-x-8 gap-y-3 sm:grid-cols-2">
        {Object.entries(READER_CHOICES).map(([topic, { label, choices }]) => (
          <label key={topic} className="block">
            <span className="font-bold">{label}</span>
            <select
              className="block h-12 w-full border border-[color:var(--line)] bg-base-100 px-3 text-lg"
              value={chosen?.[topic] ?? ''}
              disabled={isLoading || !chosen}
              onChange={(e) => void choose(topic, e.target.value)}
            >
              {Object.entries(choices).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
    </section>
  )
}

function Password() {
  const [setPassword, { isLoading }] = useSetPasswordMutation()
  const { form, told, errorOf, refused } = useSecretForm(passwordBody, { current: '', password: '' })
  return (
    <form
      noValidate
      aria-label="Password"
      className="border-t border-base-300 py-5"
      onSubmit={(e) =>
        void form.handleSubmit(
          async (typed) =>
            void told(await setPassword(typed), 'Password changed. Other browsers of yours are signed out.'),
        )(e)
      }
    >
      <h2 className="pb-2 text-lg font-bold">Password</h2>
      <div className="flex flex-wrap gap-x-8">
        <Field
          label="Password now"
          unit=""
          wide
          type="password"
          autoComplete="current-password"
          error={errorOf('current')}
          {...form.register('current')}
        />
        <Field
          label="New password"
          unit=""
          wide
          type="password"
          autoComplete="new-password"
          error={errorOf('password') ?? refused}
          {...form.register('password')}
        />
      </div>
      <button type="submit" className="slant" disabled={isLoading}>
        Change password
      </button>
    </form>
  )
}

function Pin({ has }: { has: boolean }) {
  const [setPin, { isLoading }] = useSetPinMutation()
  const { form, told, errorOf, refused } = useSecretForm(pinBody, { password: '', pin: '' })
  const send = (pin: string | null, said: string) =>
    form.handleSubmit(async ({ password }) => void told(await setPin({ password, pin }), said))
  return (
    <form
      noValidate
      aria-label="PIN"
      className="border-t border-base-300 py-5"
      onSubmit={(e) => void send(form.getValues('pin'), 'PIN set.')(e)}
    >
      <h2 className="text-lg font-bold">PIN for a shared tablet</h2>
      <p className="max-w-prose pb-3 text-pretty soft">
        Where somebody is signed in, you take over by these digits. By PIN you work as an operator at most.
        {has && ' You have one.'}
      </p>
      <div className="flex flex-wrap gap-x-8">
        <Field
          label="Password"
          unit=""
          wide
          type="password"
          autoComplete="current-password"
          error={errorOf('password')}
          {...form.register('password')}
        />
        <Field
          label="New PIN"
          unit=""
          type="password"
          inputMode="numeric"
          autoComplete="off"
          error={errorOf('pin') ?? refused}
          {...form.register('pin')}
        />
      </div>
      <div className="flex flex-wrap gap-4">
        <button type="submit" className="slant" disabled={isLoading}>
          Set PIN
        </button>
        {has && (
          <button
            type="button"
            className="slant slant-plain"
            disabled={isLoading}
            onClick={() => {
              form.setValue('pin', '')
              void send(null, 'PIN removed.')()
            }}
          >
            Remove PIN
          </button>
        )}
      </div>
    </form>
  )
}
