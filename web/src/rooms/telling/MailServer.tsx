import { MAIL_SECURITIES, type MailSecurity, mailServerBody, type TellingView } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { useState } from 'react'
import { type Resolver, useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { Choice } from '../../components/Choice.tsx'
import { useSetMailServerMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'

const SECURITY_NAMES: Record<MailSecurity, string> = {
  tls: 'TLS from the start',
  starttls: 'STARTTLS',
  none: 'none',
}
const USUAL_PORTS: Record<MailSecurity, number> = { tls: 465, starttls: 587, none: 25 }

type Typed = { host: string; port: number; security: MailSecurity; user: string; sender: string; password: string }

/** The mail server that messages go through. */
export function MailServer({ mail }: { mail: TellingView['mail'] }) {
  const { operator } = useAppSelector(actorOf)
  const [set, { isLoading }] = useSetMailServerMutation()
  const [open, setOpen] = useState(false)
  const form = useForm<Typed>({
    resolver: yupResolver(mailServerBody.omit(['operator'])) as never as Resolver<Typed>,
    defaultValues: {
      host: mail?.host ?? '',
      port: mail?.port ?? USUAL_PORTS.starttls,
      security: mail?.security ?? 'starttls',
      user: mail?.user ?? '',
      sender: mail?.sender ?? '',
      password: '',
    },
  })
  const { errors } = form.formState
  const security = form.watch('security')
  const submit = form.handleSubmit(async ({ password, ...server }) => {
    const { error } = await set({ operator, ...server, ...(password === '' ? {} : { password }) })
    if (!error) {
      toast.success('Mail goes through it from now on.')
      return
    }
    const { fields, message, hint } = problemOf(error)
    for (const [key, text] of Object.entries(fields ?? {})) form.setError(key as keyof Typed, { message: text })
    if (!fields) toast.error(message, { description: hint })
  })
  return (
    <section className="mt-6 border-t border-base-300 py-5">
      <h2 className="text-lg font-bold">Mail server</h2>
      <p className="pb-2">
        {mail ? `${mail.host}:${mail.port}, from ${mail.sender}` : 'None yet: nothing can be sent by e-mail.'}
      </p>
      {!open && (
        <button type="button" className="slant slant-plain" onClick={() => setOpen(true)}>
          {mail ? 'Change it' : 'Set a mail server'}
        </button>
      )}
      {open && (
        <form noValidate aria-label="Mail server" onSubmit={(e) => void submit(e)}>
          <div className="flex flex-wrap gap-x-6">
            <Field label="Host" unit="" wide error={errors.host?.message} {...form.register('host')} />
            <Choice
              label="Encryption"
              value={security}
              choices={MAIL_SECURITIES.map((s) => [s, SECURITY_NAMES[s]])}
              onChoose={(next) => {
                // The port follows as long as nobody chose another.
                if (form.getValues('port') === USUAL_PORTS[security])
                  form.setValue('port', USUAL_PORTS[next as MailSecurity])
                form.setValue('security', next as MailSecurity)
              }}
            />
            <Field
              label="Port"
              unit=""
              inputMode="numeric"
              error={errors.port?.message}
              {...form.register('port', { valueAsNumber: true })}
            />
            <Field
              label="Messages come from"
              unit=""
              wide
              hint="An address that the server lets send."
              error={errors.sender?.message}
              {...form.register('sender')}
            />
            <Field label="User (optional)" unit="" wide error={errors.user?.message} {...form.register('user')} />
            <Field
              label="Password"
              unit=""
              wide
              type="password"
              autoComplete="new-password"
              hint={mail?.hasPassword ? 'One is kept; empty leaves it.' : 'It is never shown again.'}
              error={errors.password?.message}
              {...form.register('password')}
            />
          </div>
          <button type="submit" className="slant" disabled={isLoading}>
            Save
          </button>
        </form>
      )}
    </section>
  )
}
