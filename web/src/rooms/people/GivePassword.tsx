import { givePasswordBody } from '@frustum/contract'
import { useGivePasswordMutation, useMeQuery } from '../../store/api.ts'
import { Field } from '../bench/Field.tsx'
import { useSecretForm } from './useSecretForm.ts'

/** A lead's way to let somebody in, or to help one who lost the password. */
export function GivePassword({ id }: { id: number }) {
  const { data: me } = useMeQuery()
  const [give, { isLoading }] = useGivePasswordMutation()
  const { form, told, errorOf, refused } = useSecretForm(givePasswordBody, { password: '' })
  if (!me?.signIn || me.role !== 'lead' || me.person?.id === id) return null
  return (
    <form
      noValidate
      aria-label="A password for them"
      className="mt-8 border-t border-base-300 pt-5"
      onSubmit={(e) =>
        void form.handleSubmit(
          async ({ password }) =>
            void told(await give({ id: String(id), password }), 'Password set. Tell it to nobody but them.'),
        )(e)
      }
    >
      <h2 className="text-lg font-bold">Signing in</h2>
      <p className="max-w-prose pb-3 text-pretty soft">
        A password to begin with, or in place of a lost one. They change it on their own page. Every browser of theirs
        is signed out, and their PIN is removed.
      </p>
      <Field
        label="New password"
        unit=""
        wide
        type="text"
        spellCheck={false}
        error={errorOf('password') ?? refused}
        {...form.register('password')}
      />
      <button type="submit" className="slant" disabled={isLoading}>
        Set password
      </button>
    </form>
  )
}
