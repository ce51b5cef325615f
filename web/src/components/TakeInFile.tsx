import { Upload } from 'lucide-react'
import { type ReactNode, useId, useState } from 'react'
import type { FileSent } from '../store/endpointBuilders.ts'
import { actorOf } from '../store/person.ts'
import { problemOf } from '../store/request.ts'
import { useAppSelector } from '../store/store.ts'

interface TakeInFileProps<Report> {
  label: string
  /** Of the field, for who does not see the button. */
  field: string
  send(file: FileSent): Promise<{ data?: Report | undefined; error?: unknown }>
  /** What the file would do, or did; without `takes` there is nothing to take in. */
  says(report: Report, taken: boolean): { message: string; more: ReactNode; takes: boolean }
}

type Said = { good: boolean; message: string; more: ReactNode; file: File | null }

/** Takes a file in after it was looked at: nothing is changed before that. */
export function TakeInFile<Report>({ label, field, send, says }: TakeInFileProps<Report>) {
  const id = useId()
  const { operator } = useAppSelector(actorOf)
  const [said, setSaid] = useState<Said | null>(null)
  const [busy, setBusy] = useState(false)
  const read = async (file: File, take: boolean) => {
    setBusy(true)
    const answer = await send({ file, name: file.name, operator, take })
    setBusy(false)
    if (answer.data === undefined) {
      const { message, detail, hint } = problemOf(answer.error)
      setSaid({ good: false, message, more: [detail, hint].filter(Boolean).join(' '), file: null })
      return
    }
    const { message, more, takes } = says(answer.data, take)
    setSaid({ good: true, message, more, file: take || !takes ? null : file })
  }
  return (
    <>
      <label htmlFor={id} className={`slant cursor-pointer ${busy ? 'opacity-60' : ''}`}>
        <Upload className="size-5" aria-hidden="true" /> {busy ? 'Reading it …' : label}
      </label>
      <input
        id={id}
        type="file"
        accept="application/json,.json"
        className="sr-only"
        aria-label={field}
        disabled={busy}
        onChange={(e) => {
          const [chosen] = e.target.files ?? []
          e.target.value = ''
          if (chosen) void read(chosen, false)
        }}
      />
      {said && (
        <div
          role={said.good ? 'status' : 'alert'}
          className={`w-full border-l-4 bg-base-200 p-4 ${said.good ? 'border-success' : 'border-error'}`}
        >
          <p className="font-bold">{said.message}</p>
          <div className="max-w-prose">{said.more}</div>
          {said.file && (
            <p className="flex flex-wrap gap-4 pt-3">
              <button
                type="button"
                className="slant slant-strong"
                disabled={busy}
                onClick={() => said.file && void read(said.file, true)}
              >
                Take it in
              </button>
              <button type="button" className="slant slant-plain" disabled={busy} onClick={() => setSaid(null)}>
                Leave it
              </button>
            </p>
          )}
        </div>
      )}
    </>
  )
}
