import type { ProbeView } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { SENSOR_EVENTS, type SensorEvent } from '@frustum/core'
import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { day } from '../../components/format.ts'
import { usePhoto } from '../../components/usePhoto.ts'
import { useNoteEventMutation } from '../../store/api.ts'
import { now } from '../../store/clock.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

/** What happened to a sensor between its visits, and a place to note what happened now or was seen too late. */
export function Happened({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const [open, setOpen] = useState(false)
  return (
    <section aria-label="What happened">
      <h2 className="pb-1 text-base soft">What happened</h2>
      {probe.events.length > 0 && (
        <ul className="space-y-2 pb-2">
          {probe.events.map((e) => (
            <li key={`${e.at} ${e.kind}`}>
              <strong>{day(e.at, timeZone)}</strong> {[e.label, e.note].filter(Boolean).join(': ')}
              {e.operator && <span className="soft"> {e.operator}</span>}
              {e.photo && (
                <a href={addressOf(ENDPOINTS.photo, { sha256: e.photo })} className="block pt-1">
                  <img
                    src={addressOf(ENDPOINTS.photo, { sha256: e.photo })}
                    alt={`${e.label ?? 'What happened'}, ${day(e.at, timeZone)}`}
                    className="max-h-40 border border-base-300"
                    loading="lazy"
                  />
                </a>
              )}
            </li>
          ))}
        </ul>
      )}
      {open ? (
        <EventForm position={probe.position} onClose={() => setOpen(false)} />
      ) : (
        <For needs="operator">
          <button type="button" className="slant" onClick={() => setOpen(true)}>
            Note what happened
          </button>
        </For>
      )}
    </section>
  )
}

/** The browser's own field of an instant, in its time zone. */
const localInstant = (at: number) => {
  const local = new Date(at - new Date(at).getTimezoneOffset() * 60_000)
  return local.toISOString().slice(0, 16)
}

function EventForm({ position, onClose }: { position: string; onClose: () => void }) {
  const { operator } = useAppSelector(actorOf)
  const [kind, setKind] = useState<SensorEvent>('unplugged')
  const [at, setAt] = useState(() => localInstant(now()))
  const [note, setNote] = useState('')
  const [problem, setProblem] = useState('')
  const [photo, setPhoto] = useState<File | null>(null)
  const [send, { isLoading }] = useNoteEventMutation()
  const { keepPhoto, keeping } = usePhoto()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const instant = new Date(at).getTime()
    if (!Number.isFinite(instant)) {
      setProblem('Choose when it happened.')
      return
    }
    const kept = photo ? await keepPhoto(photo) : null
    if (kept && 'problem' in kept) {
      setProblem(kept.problem)
      return
    }
    const answer = await send({ position, operator, kind, at: instant, note, ...kept })
    if (answer.error) {
      const { fields, message } = problemOf(answer.error)
      setProblem(fields?.at ?? fields?.kind ?? fields?.note ?? message)
      return
    }
    toast.success(SENSOR_EVENTS[kind].asks ? 'Noted. A check is due.' : 'Noted.')
    onClose()
  }
  return (
    <form className="space-y-3" onSubmit={(e) => void submit(e)} noValidate>
      <label className="block">
        <span className="block font-bold">What</span>
        <select
          className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
          value={kind}
          onChange={(e) => setKind(e.target.value as SensorEvent)}
        >
          {Object.entries(SENSOR_EVENTS).map(([value, { label }]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </select>
      </label>
      <label className="block">
        <span className="block font-bold">When</span>
        <input
          type="datetime-local"
          className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
          value={at}
          onChange={(e) => setAt(e.target.value)}
        />
      </label>
      <label className="block">
        <span className="block font-bold">Note</span>
        <textarea
          rows={2}
          maxLength={500}
          className="w-full border border-[color:var(--line)] bg-base-100 p-3"
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
      </label>
      <label className="block">
        <span className="block font-bold">Photo (optional)</span>
        <input
          type="file"
          accept="image/jpeg,image/png,image/webp"
          className="min-h-12 w-full content-center border border-[color:var(--line)] bg-base-100 px-3 py-2"
          onChange={(e) => setPhoto(e.target.files?.[0] ?? null)}
        />
        <span className="text-sm soft">It is made smaller, and where it was taken is left out.</span>
      </label>
      <p role="alert" className="min-h-6 text-sm text-error">
        {problem}
      </p>
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="slant slant-strong" disabled={isLoading || keeping}>
          Save
        </button>
        <button type="button" className="slant slant-plain" onClick={onClose}>
          Cancel
        </button>
      </div>
    </form>
  )
}
