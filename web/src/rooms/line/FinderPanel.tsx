import {
  FINDABLE,
  type Findable,
  type FinderView,
  type FoundView,
  isModbus,
  type LineView,
  type MessageFormat,
  type Protocol,
} from '@frustum/contract'
import { useState } from 'react'
import { toast } from 'sonner'
import { plural } from '../../components/format.ts'
import { problemOf, useFinderQuery, useFindMutation, useLookMutation, useStopFinderMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { type ChannelDraft, channelDraft, type LineDraft, NotANumber, whereOf } from './draft.ts'
import { FieldTree } from './FieldTree.tsx'
import { figured } from './numbers.ts'

const NAMES: Record<Findable, string> = { value: 'Value', signal: 'Signal', temperature: 'Temperature' }
const POLL_MS = 1000

/** How it is looked for. */
const HOW: Readonly<Record<string, string>> = {
  registers:
    'Type what it reads now, with all its digits. The registers of the device are read, at most 80 questions a second.',
  mqtt: 'Type what it reads now, if you can see it. What is published is listened to for half a minute, and what fits stands first.',
  http: 'Type what it reads now, if you can see it. The page is fetched every two seconds, and what fits stands first.',
  push: 'Type what it reads now, if you can see it, and let it send once.',
}

interface FinderPanelProps {
  line: LineView
  protocol: Protocol
  draft: LineDraft
  onTake: (name: Findable, channel: ChannelDraft, format?: MessageFormat) => void
  /** Where the time of a message stands. */
  onTime: (field: string) => void
  onUnit: (unit: number) => void
  onErrors: (errors: Record<string, string>) => void
}

/** Finds by what the display says: no manual is needed. */
export function FinderPanel({ line, protocol, draft, onTake, onTime, onUnit, onErrors }: FinderPanelProps) {
  const { operator } = useAppSelector(actorOf)
  const [find, { isLoading: starting }] = useFindMutation()
  const [look, { isLoading: looking }] = useLookMutation()
  const [stop] = useStopFinderMutation()
  const [id, setId] = useState<string | null>(null)
  const [shown, setShown] = useState<Partial<Record<Findable, string>>>({})
  const [errors, setErrors] = useState<Record<string, string>>({})
  const { data: finder } = useFinderQuery(id ?? '', { skip: id === null, pollingInterval: POLL_MS })
  const running = id !== null && finder !== undefined && finder.phase !== 'stopped'
  const told = (error: unknown) => {
    const { message, hint, fields } = problemOf(error)
    setErrors(fields ?? {})
    // What is wrong with the display is said beside it, and there alone.
    const others = Object.entries(fields ?? {}).filter(([key]) => !FINDABLE.some((name) => name === key))
    if (fields) onErrors(Object.fromEntries(others))
    else toast.error(message, { description: hint })
  }
  const offered = FINDABLE.filter((name) => name !== 'signal' || line.units.signal[0] !== line.units.value[0])
  const typed = () => Object.fromEntries(Object.entries(shown).filter(([, text]) => text.trim() !== ''))
  const begin = async () => {
    try {
      const { address, ...where } = whereOf(draft, protocol)
      const { name: _, ...asked } = { name: undefined, ...where }
      const unit = address.unit === undefined ? {} : { unit: address.unit }
      const answer = await find({ operator, ...asked, address, ...unit, position: line.id, shown: typed() })
      if (answer.data) {
        setErrors({})
        setShown({})
        setId(answer.data.id)
      } else told(answer.error)
    } catch (error) {
      if (error instanceof NotANumber) onErrors({ [error.field]: error.message })
      else throw error
    }
  }
  const again = async (more: { unit?: number; further?: boolean }) => {
    if (!id) return
    const answer = await look({ id, operator, shown: typed(), ...more })
    if (answer.data) {
      setErrors({})
      setShown({})
      if (more.unit !== undefined) onUnit(more.unit)
    } else told(answer.error)
  }
  return (
    <div className="border-l-4 border-accent bg-base-200 p-4">
      <h3 className="font-bold">Find it by what the display says</h3>
      <p className="max-w-prose pt-1 pb-3 text-pretty soft">
        {HOW[isModbus(protocol) ? 'registers' : protocol] ?? ''} Nothing is ever written to it.
      </p>
      <div className="flex flex-wrap items-start gap-x-4">
        {offered.map((name) => (
          <Field
            key={name}
            label={NAMES[name]}
            unit={line.units[name][0] ?? ''}
            error={errors[name]}
            value={shown[name] ?? ''}
            onChange={(e) => setShown({ ...shown, [name]: e.target.value })}
          />
        ))}
        <span className="pt-6">
          {running ? (
            <button type="button" className="slant slant-strong" disabled={looking} onClick={() => void again({})}>
              It says this now
            </button>
          ) : (
            <button type="button" className="slant slant-strong" disabled={starting} onClick={() => void begin()}>
              Find it
            </button>
          )}
        </span>
        {running && (
          <span className="pt-6">
            <button type="button" className="slant slant-plain" onClick={() => id && void stop({ id, operator })}>
              Stop
            </button>
          </span>
        )}
      </div>
      {finder && (
        <Progress
          finder={finder}
          onUnit={(unit) => void again({ unit })}
          onFurther={() => void again({ further: true })}
        />
      )}
      {finder && finder.fields.length > 0 && (
        <FieldTree
          finder={finder}
          offered={offered}
          onTake={(name, field) => onTake(name, channelDraft(field.channel), field.format)}
          onTime={({ field }) => onTime(field)}
        />
      )}
      {finder &&
        FINDABLE.map((name) => {
          const found = finder.found[name]
          return found ? <Found key={name} name={name} found={found} onTake={onTake} /> : null
        })}
    </div>
  )
}

function Progress({
  finder,
  onUnit,
  onFurther,
}: {
  finder: FinderView
  onUnit: (unit: number) => void
  onFurther: () => void
}) {
  const { phase, why, asked, foreseen, asking, readable, units, unit } = finder
  return (
    <div role="status" className="pb-2 text-sm">
      {phase === 'stopped' ? (
        <p>{why ? <strong className="text-warning">{why}</strong> : 'Stopped.'}</p>
      ) : phase === 'listening' || (phase === 'watching' && unit === null) ? (
        <p>
          {why ? <strong className="text-warning">{why}</strong> : `It ${asking}.`} {plural(asked, 'message')},{' '}
          {plural(readable, 'field')}
          {phase === 'listening' ? ' so far' : ''}.
        </p>
      ) : phase === 'watching' ? (
        <p>
          {plural(readable, 'register')} of unit {unit} can be read. Asking for {asking}.{' '}
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={onFurther}>
            Read further addresses
          </button>
        </p>
      ) : (
        <>
          <p>
            {phase === 'units' ? 'Looking for who answers' : 'Reading through'}: {asking}.
          </p>
          <progress className="progress w-full max-w-md" value={Math.min(asked, foreseen)} max={foreseen} />
        </>
      )}
      {unit === null && units.length > 0 && (
        <p className="flex flex-wrap items-center gap-3 py-2">
          These answer:
          {units.map((u) => (
            <button key={u} type="button" className="slant" onClick={() => onUnit(u)}>
              Unit {u}
            </button>
          ))}
        </p>
      )}
    </div>
  )
}

interface FoundProps {
  name: Findable
  found: NonNullable<FinderView['found'][Findable]>
  onTake: (name: Findable, channel: ChannelDraft) => void
}

/** How long a click may follow the end of a touch. */
const CLICK_MS = 400

/** Candidates come and go with each look; while one is pressed the list holds still, so that the press is for that one. */
export function Found({ name, found: newest, onTake }: FoundProps) {
  const [held, setHeld] = useState<typeof newest | null>(null)
  const found = held ?? newest
  // On a touch screen the click comes some time after the finger is lifted and has left the list.
  const release = () => setTimeout(() => setHeld(null), CLICK_MS)
  return (
    <section aria-label={`${NAMES[name]}, found`} className="border-t border-base-300 py-3">
      <p className="max-w-prose text-pretty">
        <strong>
          {NAMES[name]}:{' '}
          {found.certain ? 'certain.' : found.left === 0 ? 'not found.' : `${plural(found.left, 'place')} left.`}
        </strong>{' '}
        {found.why}
      </p>
      <ul
        onPointerDown={() => setHeld(newest)}
        onPointerUp={release}
        onPointerCancel={release}
        onPointerLeave={release}
      >
        {found.first.map((one, i) => (
          <Place key={placeKey(one)} name={name} one={one} first={i === 0} onTake={onTake} />
        ))}
      </ul>
      {found.left > found.first.length && <p className="text-sm soft">and {found.left - found.first.length} more</p>}
    </section>
  )
}

const placeKey = ({ channel }: FoundView) => JSON.stringify([channel.at, channel.scale])

function Place({
  name,
  one,
  first,
  onTake,
}: {
  name: Findable
  one: FoundView
  first: boolean
  onTake: FoundProps['onTake']
}) {
  const { at, scale } = one.channel
  if (!('table' in at)) return null
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 border-t border-base-300 py-1 sm:grid-cols-[15rem_8rem_1fr_auto]">
      <span>
        <strong>
          {at.table} {at.address}
        </strong>{' '}
        <span className="soft">
          {at.type} {at.order}
          {scale === 1 ? '' : ` × ${scale}`}
        </span>
      </span>
      <span className="font-mono">{one.reads === null ? '–' : figured(one.reads)}</span>
      <span className="text-sm soft max-sm:hidden">
        <span className="font-mono">{one.raw}</span>
        {one.same.length > 0 &&
          `, the same as ${one.same.slice(0, 2).join(' and ')}${one.same.length > 2 ? ' ...' : ''}`}
      </span>
      <button
        type="button"
        className={first ? 'slant slant-strong' : 'slant'}
        onClick={() => onTake(name, channelDraft(one.channel))}
      >
        Take this
      </button>
    </li>
  )
}
