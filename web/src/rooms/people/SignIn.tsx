import { signInBody } from '@frustum/contract'
import { toast } from 'sonner'
import { useSignInMutation } from '../../store/api.ts'
import { Field } from '../bench/Field.tsx'
import { useSecretForm } from './useSecretForm.ts'

/** The way in, in place of every room. */
export function SignIn() {
  const [signIn, { isLoading }] = useSignInMutation()
  const { form, told, errorOf, refused } = useSecretForm(signInBody, { name: '', password: '' })
  const submit = form.handleSubmit(async (typed) => {
    const answer = await signIn(typed)
    if (told(answer) && answer.data?.wrongTries.length) {
      toast.warning('Someone entered a wrong password or PIN for you several times.', {
        description: 'See your own page for when.',
        duration: 20_000,
      })
    }
  })
  return (
    <form
      onSubmit={(e) => void submit(e)}
      noValidate
      aria-label="Sign in"
      className="mx-auto w-full max-w-md px-5 py-10"
    >
      <h1 className="pb-5 text-2xl">Sign in</h1>
      <Field
        label="Name"
        unit=""
        wide
        autoComplete="username"
        autoCapitalize="words"
        error={errorOf('name')}
        {...form.register('name')}
      />
      <Field
        label="Password"
        unit=""
        wide
        type="password"
        autoComplete="current-password"
        error={errorOf('password')}
        {...form.register('password')}
      />
      <p role="alert" className="min-h-6 pb-3 text-error">
        {refused}
      </p>
      <button type="submit" className="slant slant-strong min-h-14 px-9 text-xl" disabled={isLoading}>
        Sign in
      </button>
      <p className="pt-8 text-sm text-pretty soft">
        Password lost? A lead gives you a new one under Rig, People. A lead’s own is set anew at the server with{' '}
        <code>npm run lead</code>.
      </p>
    </form>
  )
}
