import type { MessageView, RecipientView, TellingView } from '@frustum/contract'
import { useState } from 'react'
import { toast } from 'sonner'
import { dayTime } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useDropRecipientMutation, useSiteQuery, useTellingQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { MailServer } from './MailServer.tsx'
import { RecipientForm } from './RecipientForm.tsx'
import { wishesText } from './wishes.ts'

const LOOK_EVERY_MS = 5000

/** Who is told of alarms and of what is due, and what was told last. */
export function TellingPage() {
  const { data, error, refetch } = useTellingQuery(undefined, {
    pollingInterval: LOOK_EVERY_MS,
    refetchOnMountOrArgChange: true,
  })
  const { data: site } = useSiteQuery()
  const [changing, setChanging] = useState<number | 'new' | null>(null)
  if (!data || !site) return <Fetching what="who is told" error={error} onRetry={refetch} />
  const { recipients, messages } = data
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <h1 className="text-2xl">Who is told</h1>
      <p className="max-w-prose pt-1 text-pretty soft">
        Of alarms when they are raised, and of what is due before it is. What cannot be sent is tried again for a day,
        and is itself an alarm.
      </p>
      {recipients.length === 0 && changing === null && (
        <p className="pt-4 text-lg">Nobody yet: an alarm is seen only by who has Frustum open.</p>
      )}
      <ul className="pt-3">
        {recipients.map((recipient) =>
          changing === recipient.id ? (
            <li key={recipient.id}>
              <RecipientForm telling={data} of={recipient} onDone={() => setChanging(null)} />
            </li>
          ) : (
            <Recipient
              key={recipient.id}
              recipient={recipient}
              telling={data}
              timeZone={site.timeZone}
              onChange={() => setChanging(recipient.id)}
            />
          ),
        )}
      </ul>
      {changing === 'new' ? (
        <RecipientForm telling={data} of={null} onDone={() => setChanging(null)} />
      ) : (
        <button type="button" className="slant slant-strong mt-4" onClick={() => setChanging('new')}>
          Tell somebody{recipients.length > 0 && ' else'}
        </button>
      )}
      <MailServer key={JSON.stringify(data.mail)} mail={data.mail} />
      {messages.length > 0 && (
        <section className="mt-6 border-t border-base-300 py-5">
          <h2 className="pb-2 text-lg font-bold">Messages</h2>
          <ul>
            {messages.map((message) => (
              <Message key={message.id} message={message} timeZone={site.timeZone} />
            ))}
          </ul>
        </section>
      )}
    </div>
  )
}

function Recipient({
  recipient: { id, name, by, address, wishes, lastSentAt, problem },
  telling,
  timeZone,
  onChange,
}: {
  recipient: RecipientView
  telling: TellingView
  timeZone: string
  onChange: () => void
}) {
  const { operator } = useAppSelector(actorOf)
  const [drop, { isLoading }] = useDropRecipientMutation()
  const stop = async () => {
    const { error } = await drop({ id: String(id), operator })
    if (error) toast.error(problemOf(error).message)
    else toast.success(`${name} is told no longer.`)
  }
  return (
    <li className={`border-b border-base-300 py-3 ${problem ? 'border-l-4 border-l-warning pl-4' : ''}`}>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <div className="min-w-64 flex-1">
          <p className="text-lg">
            <strong>{name}</strong> <span className="break-all">{address}</span>
          </p>
          <p className="text-pretty">{wishesText(wishes)}</p>
          <p className="text-sm soft">
            {by === 'mail' && !telling.mail && 'Waits for a mail server. '}
            {lastSentAt === null ? 'Nothing was sent yet.' : `Last message ${dayTime(lastSentAt, timeZone)}.`}
          </p>
          {problem && (
            <p className="text-sm text-warning">
              Since {dayTime(problem.since, timeZone)}: {problem.text}
            </p>
          )}
        </div>
        <span className="flex gap-3">
          <button type="button" className="slant slant-plain" onClick={onChange}>
            Change
          </button>
          <button type="button" className="slant slant-plain" disabled={isLoading} onClick={() => void stop()}>
            Stop
          </button>
        </span>
      </div>
    </li>
  )
}

function Message({ message, timeZone }: { message: MessageView; timeZone: string }) {
  const { recipient, subject, madeAt, sentAt, tries, problem, nextTryAt } = message
  return (
    <li className="border-b border-base-300 py-2">
      <div className="flex flex-wrap gap-x-5">
        <span className="w-36 font-mono whitespace-nowrap">{dayTime(madeAt, timeZone)}</span>
        <span className="w-32 truncate soft">{recipient}</span>
        <span className="min-w-64 flex-1">{subject}</span>
        <span className={sentAt === null ? 'text-warning' : 'soft'}>
          {sentAt !== null
            ? 'sent'
            : nextTryAt === null
              ? `given up after ${tries} tries`
              : tries === 0
                ? 'waits'
                : `tried ${tries} times`}
        </span>
      </div>
      {problem && sentAt === null && <p className="text-sm text-warning">{problem}</p>}
    </li>
  )
}
