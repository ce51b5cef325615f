import {
  type DeviceAddress,
  FINDABLE,
  type FieldView,
  type Findable,
  type FinderView,
  type FoundView,
  type LineView,
  type ProtocolForm,
  UnreadableField,
} from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { Fragment, useEffect, useState } from 'react'
import { toast } from 'sonner'
import { duration, plural } from '../../components/format.ts'
import {
  useFinderQuery,
  useFindersQuery,
  useFindMutation,
  useLookMutation,
  useStopFinderMutation,
} from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { FieldTree } from './FieldTree.tsx'
import { type LineForm, put, setOptions, takeChannel, whereOf } from './lineForm.ts'
import { withUnit } from './numbers.ts'

const NAMES: Record<Findable, string> = { value: 'Value', signal: 'Signal', temperature: 'Temperature' }
const POLL_MS = 1000

interface FinderPanelProps {
  line: LineView
  form: LineForm
  protocol: ProtocolForm
}

/** Finds registers and fields by what the display shows: no manual is needed. */
export function FinderPanel({ line, form, protocol }: FinderPanelProps) {
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
  const complain = (error: unknown) => {
    const { message, hint, fields } = problemOf(error)
    setErrors(fields ?? {})
    for (const [path, problem] of Object.entries(fields ?? {}))
      if (!FINDABLE.some((name) => name === path)) form.setError(path, { message: problem })
    if (!fields) toast.error(message, { description: hint })
  }
  const offered = FINDABLE.filter((name) => name !== 'signal' || line.units.signal[0] !== line.units.value[0])
  const typed = () => Object.fromEntries(Object.entries(shown).filter(([, text]) => text.trim() !== ''))
  const start = async () => {
    try {
      const { name: _, ...where } = { name: undefined, ...whereOf(form.getValues(), protocol) }
      const answer = await find({ operator, ...where, position: line.id, shown: typed() })
      if (answer.data) {
        setErrors({})
        setShown({})
        setId(answer.data.id)
      } else complain(answer.error)
    } catch (problem) {
      if (!(problem instanceof UnreadableField)) throw problem
      form.setError(problem.path, { message: problem.message })
    }
  }
  const again = async (more: { address?: DeviceAddress; further?: boolean; withdraw?: number }) => {
    if (!id) return
    const answer = await look({ id, operator, shown: typed(), ...more })
    if (answer.data) {
      setErrors({})
      setShown({})
      setAddress(more.address)
    } else complain(answer.error)
  }
  const setAddress = (address: DeviceAddress | null = {}) => {
    for (const [key, value] of Object.entries(address ?? {})) put(form, `address.${key}`, String(value))
  }
  /** The address that was searched is that of the device, also where it was found by the search. */
  const take = (
    name: Findable,
    { channel, options }: Pick<FoundView, 'channel'> & { options?: FieldView['options'] },
  ) => {
    takeChannel(form, name, channel, protocol, options)
    setAddress(finder?.address)
  }
  return (
    <div className="border-l-4 border-accent bg-base-200 p-4">
      <h3 className="font-bold">Find it by the displayed value</h3>
      <p className="max-w-prose pt-1 pb-3 text-pretty soft">{protocol.finder} Nothing is written to the device.</p>
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
            <button type="button" className="slant slant-strong" disabled={starting} onClick={() => void start()}>
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
          onAddress={(address) => void again({ address })}
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
          onTake={take}
          onTime={({ asTime }) => asTime && setOptions(form, asTime)}
        />
      )}
      {finder &&
        FINDABLE.map((name) => {
          const found = finder.found[name]
          return found ? <Found key={name} name={name} found={found} onTake={take} /> : null
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

interface ProgressProps {
  finder: FinderView
  onAddress: (address: DeviceAddress) => void
  onFurther: () => void
}

function Progress({ finder, onAddress, onFurther }: ProgressProps) {
  const { phase, status, why, done, secondsLeft, addresses, further } = finder
  const isAsking = phase === 'searching' && addresses.length === 0
  return (
    <div role="status" className="pb-2 text-sm">
      {why && <p className="font-bold text-warning">{why}</p>}
      <p>
        {why && phase === 'stopped' ? '' : status}
        {isAsking && secondsLeft !== null && `, about ${duration(secondsLeft / 60)} left`}{' '}
        {further && (
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={onFurther}>
            {further}
          </button>
        )}
      </p>
      {isAsking && done !== null && <progress className="progress w-full max-w-md" value={done} max={1} />}
      {addresses.length > 0 && (
        <p className="flex flex-wrap items-center gap-3 py-2">
          {addresses.map(({ label, address }) => (
            <button key={label} type="button" className="slant" onClick={() => onAddress(address)}>
              {label}
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
  onTake: (name: Findable, one: FoundView) => void
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
  if (certain) return `It followed the display at ${looks} readings, and nothing else did.`
  if (left === 0) return 'Check the unit of the reading, or search all addresses.'
  if (looks < 2)
    return 'Change the reading by at least 20 of its last digits, for example in another solution. Then enter what the display shows.'
  return 'Add another reading when the display shows something else.'
}

interface PlaceProps {
  name: Findable
  one: FoundView
  certain: boolean
  onTake: FoundProps['onTake']
}

function Place({ name, one, certain, onTake }: PlaceProps) {
  const [asking, setAsking] = useState(false)
  const take = () => {
    setAsking(false)
    onTake(name, one)
  }
  return (
    <li className="flex flex-wrap items-start justify-between gap-x-4 border-t border-base-300 py-1">
      <div className="min-w-56 flex-1">
        <p>
          <strong>{one.title}</strong> <span className="soft">({one.type})</span>
          {one.reads === null ? (
            ''
          ) : (
            <>
              , shows <span className="font-mono">{withUnit(one.reads, one.channel.unit).trim()}</span>
            </>
          )}
        </p>
        <details className="text-sm">
          <summary className="min-h-11 w-fit cursor-pointer content-center underline underline-offset-4">
            Details
          </summary>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 pb-2">
            {one.details.map(({ label, text }) => (
              <Fragment key={label}>
                <dt className="soft">{label}</dt>
                <dd className="font-mono">{text}</dd>
              </Fragment>
            ))}
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
          Not certain yet. Use {one.title.toLowerCase()} anyway?
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
