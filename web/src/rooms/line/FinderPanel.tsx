import {
  FINDABLE,
  type Findable,
  type FinderView,
  type FoundView,
  isModbus,
  type LineView,
  type MessageFormat,
  type Protocol,
  type RegisterPlace,
} from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import { duration, plural } from '../../components/format.ts'
import {
  problemOf,
  useFinderQuery,
  useFindersQuery,
  useFindMutation,
  useLookMutation,
  useStopFinderMutation,
} from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { type ChannelDraft, channelDraft, type LineDraft, NotANumber, whereOf } from './draft.ts'
import { FieldTree } from './FieldTree.tsx'
import { withUnit } from './numbers.ts'

const NAMES: Record<Findable, string> = { value: 'Value', signal: 'Signal', temperature: 'Temperature' }
const POLL_MS = 1000

/** How it is searched. */
const HOW: Readonly<Record<string, string>> = {
  registers:
    "Enter what the display shows now, with all its digits. Frustum reads the device's registers, at most 80 requests a second.",
  mqtt: 'Enter what the display shows now, if you can see it. Frustum listens for half a minute and lists what matches first.',
  http: 'Enter what the display shows now, if you can see it. Frustum fetches the page every two seconds and lists what matches first.',
  push: 'Enter what the display shows now, if you can see it, then let the device send once.',
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

/** Finds registers and fields by what the display shows: no manual is needed. */
export function FinderPanel({ line, protocol, draft, onTake, onTime, onUnit, onErrors }: FinderPanelProps) {
  const { operator } = useAppSelector(actorOf)
  const [find, { isLoading: starting }] = useFindMutation()
  const [look, { isLoading: looking }] = useLookMutation()
  const [stop] = useStopFinderMutation()
  const [id, setId] = useState<string | null>(null)
  const [shown, setShown] = useState<Partial<Record<Findable, string>>>({})
  const [errors, setErrors] = useState<Record<string, string>>({})
  const { data: searches = [] } = useFindersQuery(undefined, { pollingInterval: 5 * POLL_MS })
  const { data: finder } = useFinderQuery(id ?? '', { skip: id === null, pollingInterval: POLL_MS })
  const running = id !== null && finder !== undefined && finder.phase !== 'stopped'
  // A search ends with its page.
  useEffect(() => {
    if (!id) return
    const leave = () => {
      const body = new Blob([JSON.stringify({ operator })], { type: 'application/json' })
      navigator.sendBeacon?.(addressOf(ENDPOINTS.stopFinder, { id }), body)
    }
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      void stop({ id, operator })
    }
  }, [id, operator, stop])
  const others = searches.filter((s) => s.id !== id)
  const told = (error: unknown) => {
    const { message, hint, fields } = problemOf(error)
    setErrors(fields ?? {})
    const elsewhere = Object.entries(fields ?? {}).filter(([key]) => !FINDABLE.some((name) => name === key))
    if (fields) onErrors(Object.fromEntries(elsewhere))
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
  const again = async (more: { unit?: number; further?: boolean; withdraw?: number }) => {
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
      <h3 className="font-bold">Find it by the displayed value</h3>
      <p className="max-w-prose pt-1 pb-3 text-pretty soft">
        {HOW[isModbus(protocol) ? 'registers' : protocol] ?? ''} Nothing is written to the device.
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
              Add reading
            </button>
          ) : (
            <button type="button" className="slant slant-strong" disabled={starting} onClick={() => void begin()}>
              Search
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
      {finder && running && finder.looks.length > 0 && (
        <Looks finder={finder} onWithdraw={(withdraw) => void again({ withdraw })} />
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
      {others.length > 0 && (
        <section aria-label="Other searches" className="border-t border-base-300 pt-3 text-sm">
          <h4 className="soft">Other searches</h4>
          <ul>
            {others.map((s) => (
              <li key={s.id} className="flex flex-wrap items-center gap-x-4">
                {s.connection}, {s.operator}
                <button
                  type="button"
                  className="min-h-11 underline underline-offset-4"
                  onClick={() => void stop({ id: s.id, operator })}
                >
                  Stop
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
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
  const { phase, why, asked, foreseen, secondsLeft, asking, readable, units, unit } = finder
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
          {plural(readable, 'register')} of unit {unit} can be read.{' '}
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={onFurther}>
            Search all addresses (about 6 min)
          </button>
        </p>
      ) : (
        <>
          {why && <p className="font-bold text-warning">{why}</p>}
          {unit === null && units.length > 0 ? null : (
            <>
              <p>
                {phase === 'units' ? 'Scanning unit IDs' : `Reading registers of unit ${unit}`}: {asking}
                {secondsLeft === null ? '' : `, about ${duration(secondsLeft / 60)} left`}
              </p>
              <progress className="progress w-full max-w-md" value={Math.min(asked, foreseen)} max={foreseen} />
            </>
          )}
        </>
      )}
      {unit === null && units.length > 0 && (
        <p className="flex flex-wrap items-center gap-3 py-2">
          {units.length === 1 ? 'This unit answers:' : 'These units answer:'}
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

/** What was entered; a reading that was wrong can be withdrawn. */
function Looks({ finder, onWithdraw }: { finder: FinderView; onWithdraw: (id: number) => void }) {
  return (
    <ul aria-label="Readings entered" className="flex flex-wrap gap-x-6 border-t border-base-300 py-1 text-sm">
      {finder.looks.map(({ id, typed }) => (
        <li key={id} className="flex items-center gap-2">
          <span className="font-mono">{Object.values(typed).join(', ')}</span>
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => onWithdraw(id)}>
            Withdraw
          </button>
        </li>
      ))}
    </ul>
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
          {found.certain ? 'found.' : found.left === 0 ? 'no match.' : `${plural(found.left, 'match', 'matches')}.`}
        </strong>{' '}
        {adviceOf(found)}
      </p>
      <ul
        onPointerDown={() => setHeld(newest)}
        onPointerUp={release}
        onPointerCancel={release}
        onPointerLeave={release}
      >
        {found.first.map((one, i) => (
          <Place key={placeKey(one)} name={name} one={one} certain={found.certain && i === 0} onTake={onTake} />
        ))}
      </ul>
      {found.left > found.first.length && <p className="text-sm soft">and {found.left - found.first.length} more</p>}
    </section>
  )
}

const placeKey = ({ channel }: FoundView) => JSON.stringify([channel.at, channel.scale])

/** What to do next. */
function adviceOf({ certain, left, looks }: FoundProps['found']): string {
  if (certain) return `It followed the display at ${looks} readings, and no other register did.`
  if (left === 0) return 'Check the unit of the reading, or search all addresses.'
  if (looks < 2)
    return 'Change the reading by at least 20 of its last digits, for example in another solution. Then enter what the display shows.'
  return 'Add another reading when the display shows something else.'
}

const TYPE_NAMES: Partial<Record<RegisterPlace['type'], string>> = {
  int16: '16-bit signed',
  uint16: '16-bit',
  int32: '32-bit signed',
  uint32: '32-bit',
  float32: '32-bit decimal',
  float64: '64-bit decimal',
  bcd16: '16-bit BCD',
  bcd32: '32-bit BCD',
}

interface PlaceProps {
  name: Findable
  one: FoundView
  certain: boolean
  onTake: FoundProps['onTake']
}

function Place({ name, one, certain, onTake }: PlaceProps) {
  const [asking, setAsking] = useState(false)
  const { at, scale, offset, unit } = one.channel
  if (!('table' in at)) return null
  const register = `${at.table === 'input' ? 'Input register' : 'Register'} ${at.address}`
  const take = () => {
    setAsking(false)
    onTake(name, channelDraft(one.channel))
  }
  return (
    <li className="flex flex-wrap items-start justify-between gap-x-4 border-t border-base-300 py-1">
      <div className="min-w-56 flex-1">
        <p>
          <strong>{register}</strong> <span className="soft">({TYPE_NAMES[at.type] ?? at.type})</span>
          {one.reads === null ? (
            ''
          ) : (
            <>
              , shows <span className="font-mono">{withUnit(one.reads, unit).trim()}</span>
            </>
          )}
        </p>
        <details className="text-sm">
          <summary className="min-h-11 w-fit cursor-pointer content-center underline underline-offset-4">
            Details
          </summary>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 pb-2">
            <dt className="soft">Table</dt>
            <dd>{at.table}</dd>
            <dt className="soft">Type</dt>
            <dd>
              {at.type}, byte order {at.order}
            </dd>
            <dt className="soft">Scale</dt>
            <dd className="font-mono">{Number(scale.toPrecision(6))}</dd>
            <dt className="soft">Offset</dt>
            <dd className="font-mono">{Number(offset.toPrecision(6))}</dd>
            <dt className="soft">Raw</dt>
            <dd className="font-mono">{one.raw}</dd>
            {one.same.length > 0 && (
              <>
                <dt className="soft">Same value</dt>
                <dd>{one.same.slice(0, 3).join('; ')}</dd>
              </>
            )}
          </dl>
        </details>
      </div>
      <button
        type="button"
        className={certain ? 'slant slant-strong' : 'slant'}
        onClick={() => (certain ? take() : setAsking(true))}
      >
        Use this
      </button>
      {asking && (
        <p className="flex w-full flex-wrap items-center gap-3 py-2">
          Not certain yet. Use {register.toLowerCase()} anyway?
          <button type="button" className="slant" onClick={take}>
            Use anyway
          </button>
          <button type="button" className="slant slant-plain" onClick={() => setAsking(false)}>
            Keep searching
          </button>
        </p>
      )}
    </li>
  )
}
