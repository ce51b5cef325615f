import type { RigPosition, RigView } from '@frustum/contract'
import { INSTRUMENT_KINDS, type InstrumentKind, kindOf, WATERS } from '@frustum/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { For } from '../../components/For.tsx'
import { calendarDay, day, listed, scaledText } from '../../components/format.ts'
import { LastDay } from '../../components/LastDay.tsx'
import { Fetching } from '../../components/Problem.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { useRigQuery, useSiteQuery } from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { useLiveValues } from '../../store/live.ts'
import { useMay } from '../../store/me.ts'
import { NewInstrument } from '../bench/NewInstrument.tsx'
import { Connections } from '../connections/Connections.tsx'

const TABS = ['Sensors', 'Devices', 'Connections', 'In store', 'People and rest'] as const
type Tab = (typeof TABS)[number]

/** All that the site has: where it measures, with what, and who works there. */
export function RigRoom() {
  const { data: rig, error, refetch } = useRigQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const lead = useMay('lead')
  const [search, setSearch] = useState('')
  const [tab, setTab] = useState<Tab>('Sensors')
  const [archived, setArchived] = useState(false)
  if (!rig || !site) return <Fetching what="the rig" error={error} onRetry={refetch} />
  const word = search.trim().toLowerCase()
  const shown = narrowed(rig, word, archived)
  return (
    <div className="mx-auto w-full max-w-[1200px] flex-1 px-4 pt-5 pb-10 sm:px-7">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-2 border-b border-base-300 pb-3">
        <h1 className="text-2xl">Rig of {site.name}</h1>
        <label className="flex min-w-60 flex-1 items-center gap-2">
          <span className="sr-only">Search</span>
          <input
            type="search"
            className="min-h-11 w-full max-w-sm border border-[color:var(--line)] bg-base-100 px-3"
            placeholder="Code, place, device, serial number"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
        </label>
        {lead && (
          <>
            <Link to="/bring" className="min-h-11 content-center underline underline-offset-4">
              Bring in a list
            </Link>
            <Link to="/rig/add" className="slant slant-strong">
              Add a sensor
            </Link>
          </>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-6 py-2">
        {TABS.map((t) => (
          <button
            key={t}
            type="button"
            aria-pressed={tab === t}
            className={`min-h-11 border-b-2 px-1 ${tab === t ? 'border-primary font-bold' : 'border-transparent soft'}`}
            onClick={() => setTab(t)}
          >
            {t}
          </button>
        ))}
        <label className="ml-auto flex min-h-11 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-sm border-[color:var(--line)]"
            checked={archived}
            onChange={(e) => setArchived(e.target.checked)}
          />
          Show what was put away
        </label>
      </div>
      {tab === 'Sensors' && <Sensors rig={shown} whole={rig} searching={word !== ''} />}
      {tab === 'Devices' && <Devices rig={shown} whole={rig} />}
      {tab === 'Connections' && <Connections />}
      {tab === 'In store' && <Spares spares={shown.spares} />}
      {tab === 'People and rest' && <Rest rig={shown} timeZone={site.timeZone} />}
    </div>
  )
}

/** What fits a word, and was not put away unless that is asked for. */
function narrowed(rig: RigView, word: string, archived: boolean): RigView {
  const fits = (...texts: (string | null | undefined)[]) =>
    word === '' || texts.some((t) => t?.toLowerCase().includes(word))
  const here = <T extends { archived: boolean }>(list: readonly T[]) => list.filter((t) => archived || !t.archived)
  const placeName = (id: number) => rig.places.find((p) => p.id === id)?.name
  const deviceName = (id: number) => rig.devices.find((d) => d.id === id)?.name
  const positions = here(rig.positions).filter((p) =>
    fits(p.code, p.spot, p.quantity, p.sensor?.serial, placeName(p.placeId), deviceName(p.deviceId)),
  )
  const at = new Set(positions.map((p) => p.deviceId))
  return {
    ...rig,
    positions,
    places: here(rig.places).filter((p) => fits(p.name) || positions.some((q) => q.placeId === p.id)),
    devices: here(rig.devices).filter((d) => fits(d.name, d.location) || at.has(d.id)),
    spares: here(rig.spares).filter((s) => fits(s.serial, s.model, s.storage, s.lastAt)),
    people: here(rig.people).filter((p) => fits(p.name)),
    consumables: here(rig.consumables).filter((c) => fits(c.name, c.place)),
    templates: here(rig.templates).filter((t) => fits(t.name)),
    standards: here(rig.standards).filter((s) => fits(s.label)),
    instruments: rig.instruments.filter((i) => fits(i.name, i.serial)),
  }
}

const away = (thing: { archived: boolean }) => thing.archived && <span className="soft"> (put away)</span>

function Sensors({ rig, whole, searching }: { rig: RigView; whole: RigView; searching: boolean }) {
  const { values } = useLiveValues()
  if (whole.positions.length === 0) {
    return (
      <p className="max-w-prose py-6 text-lg">
        No sensor yet. Here stand the places of your site with the sensors in them. <Begin />
      </p>
    )
  }
  return (
    <>
      {rig.places.map((place) => {
        const there = rig.positions.filter((p) => p.placeId === place.id)
        if (searching && there.length === 0) return null
        return (
          <section key={place.id} aria-label={place.name} className="pt-3">
            <h2 className="flex items-baseline justify-between border-b border-base-300 text-lg">
              <Link to={`/rig/place/${place.id}`} className="min-h-11 content-center hover:underline">
                {place.name}
                {away(place)}
              </Link>
              <span className="text-sm soft">{there.length}</span>
            </h2>
            <ul>
              {there.map((p) => (
                <SensorLine
                  key={p.id}
                  position={p}
                  device={whole.devices.find((d) => d.id === p.deviceId)?.name ?? ''}
                  shown={values[p.code]?.shown ?? p.live.shown}
                />
              ))}
            </ul>
            {there.length === 0 && <p className="py-2 soft">Nothing is measured here.</p>}
          </section>
        )
      })}
      {rig.places.length === 0 && <p className="py-8 soft">Nothing fits that word.</p>}
    </>
  )
}

const Begin = () => (
  <For needs="lead">
    <Link to="/rig/add" className="font-bold underline underline-offset-4">
      Add the first one
    </Link>
  </For>
)

function SensorLine({ position, device, shown }: { position: RigPosition; device: string; shown: number | null }) {
  const { id, code, spot, quantity, sensor, state, unfit, scale } = position
  const now = useNow(60_000)
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 border-b border-base-300 py-1 sm:grid-cols-[11rem_1fr_9rem_7rem_auto]">
      <Link to={`/rig/position/${id}`} className="group block min-h-11 content-center">
        <span className="block font-bold group-hover:underline">
          {code}
          {away(position)}
        </span>
        <span className="block text-sm soft">{spot || quantity}</span>
      </Link>
      <span className="text-sm max-sm:order-3 max-sm:col-span-2">
        {quantity}, read by {device}
        <span className="block soft">
          {sensor
            ? [sensor.serial && `No. ${sensor.serial}`, sensor.model].filter(Boolean).join(', ') ||
              'Sensor without a number'
            : 'No sensor'}
        </span>
      </span>
      <span className="font-mono whitespace-nowrap max-sm:hidden">
        {shown === null ? '' : scaledText(shown, scale)}
        <LastDay position={code} now={now} />
      </span>
      <span className="justify-self-end sm:justify-self-start">
        {state && <StateMark state={state} />}
        {unfit && <span className="font-bold text-warning">cannot be computed</span>}
      </span>
      <For needs="lead">
        <Link
          to={`/rig/position/${id}/copy`}
          className="min-h-11 content-center text-sm underline underline-offset-4 max-sm:hidden"
          aria-label={`Copy ${code}`}
        >
          Copy
        </Link>
      </For>
    </li>
  )
}

function Devices({ rig, whole }: { rig: RigView; whole: RigView }) {
  return (
    <List empty="No device yet. One comes with the first sensor that it reads." action={<Begin />} items={rig.devices}>
      {(d) => {
        const reads = whole.positions.filter((p) => p.deviceId === d.id)
        return (
          <Line key={d.id} to={`/rig/device/${d.id}`} title={d.name} away={away(d)}>
            <span>
              {reads.map((p) => p.code).join(', ') || 'reads nothing'}
              {d.location && `, ${d.location}`}
            </span>
            <span className="soft">{d.linked ? 'on a line' : 'read by eye'}</span>
            <For needs="lead">
              <Link to={`/rig/add?device=${d.id}`} className="min-h-11 content-center underline underline-offset-4">
                Another sensor on it
              </Link>
            </For>
          </Line>
        )
      }}
    </List>
  )
}

function Spares({ spares }: { spares: RigView['spares'] }) {
  return (
    <List
      empty="Nothing in store. Here lie spares, and sensors that were taken out."
      action={<New subject="sensor">Add a spare</New>}
      items={spares}
    >
      {(s) => (
        <Line
          key={s.id}
          to={`/rig/sensor/${s.id}`}
          title={s.serial ? `No. ${s.serial}` : 'Sensor without a number'}
          away={away(s)}
        >
          <span>
            {[kindOf(s.kind).name, s.model, s.storage].filter(Boolean).join(', ')}
            {s.lastAt && `, was at ${s.lastAt}`}
          </span>
          <span className="soft">{s.goodUntil ? `keeps until ${calendarDay(s.goodUntil)}` : ''}</span>
        </Line>
      )}
    </List>
  )
}

function Rest({ rig, timeZone }: { rig: RigView; timeZone: string }) {
  return (
    <>
      <h2 className="pt-4 text-lg">The site</h2>
      <ul>
        <Line to="/rig/site/0" title="Name and time zone" away={null}>
          <span />
        </Line>
        <Line to="/site" title="How we work, backup, people" away={null}>
          <span>Habits, backups, and who signs in</span>
        </Line>
      </ul>
      <h2 className="pt-6 text-lg">People</h2>
      <List empty="Nobody yet." action={<New subject="person">Add somebody</New>} items={rig.people}>
        {(p) => (
          <Line key={p.id} to={`/rig/person/${p.id}`} title={p.name} away={away(p)}>
            <span>{p.initials}</span>
          </Line>
        )}
      </List>
      <h2 className="pt-6 text-lg">Places</h2>
      <List empty="No place yet." action={<New subject="place">Add a place</New>} items={rig.places}>
        {(p) => (
          <Line key={p.id} to={`/rig/place/${p.id}`} title={p.name} away={away(p)}>
            <span>{rig.positions.filter((q) => q.placeId === p.id).length} sensors</span>
          </Line>
        )}
      </List>
      <h2 className="pt-6 text-lg">What has a date of its own</h2>
      <List
        empty="Nothing yet: lamps, filters, packs, sanitising. They stand on the Plan with their dates."
        action={<New subject="consumable">Add one</New>}
        items={rig.consumables}
      >
        {(c) => (
          <Line key={c.id} to={`/rig/consumable/${c.id}`} title={c.name} away={away(c)}>
            <span>
              {c.place}, every {c.everyDays} days
            </span>
          </Line>
        )}
      </List>
      <h2 className="pt-6 text-lg">Templates of your own</h2>
      <List empty="None. A position can be kept as one, on its page here." items={rig.templates}>
        {(t) => (
          <Line key={t.id} to={`/rig/template/${t.id}`} title={t.name} away={away(t)}>
            <span>{listed(kindOf(t.kind).name, t.water && WATERS[t.water].label)}</span>
            <Link to={`/rig/add?template=${t.id}`} className="min-h-11 content-center underline underline-offset-4">
              Add a sensor by it
            </Link>
          </Line>
        )}
      </List>
      <h2 className="pt-6 text-lg">Standards of your own</h2>
      <List
        empty="None. A standard that no list here has, such as a redox solution by its millivolts, is entered as its bottle says."
        action={<New subject="standard">Add a standard</New>}
        items={rig.standards}
      >
        {(s) => (
          <Line key={s.id} to={`/rig/standard/${s.id}`} title={s.label} away={away(s)}>
            <span>for {kindOf(s.kind).name}</span>
          </Line>
        )}
      </List>
      <Instruments instruments={rig.instruments} timeZone={timeZone} />
    </>
  )
}

const KINDS_OF_INSTRUMENT = Object.keys(INSTRUMENT_KINDS) as InstrumentKind[]
/** In which instruments read; what each is good to is stated in it. */
const READ_IN = ['pH', 'mV', 'mS/cm', 'µS/cm', '°C', 'mg/L', 'PSU']

/** Each with when it was calibrated itself: noted anew it is the newer word, and the older stays in its records. */
function Instruments({ instruments, timeZone }: { instruments: RigView['instruments']; timeZone: string }) {
  /** The one that is noted anew; `new` for one that nobody knows yet. */
  const [noting, setNoting] = useState<number | 'new' | null>(null)
  const start = instruments.find((i) => i.id === noting)
  return (
    <section aria-label="Instruments">
      <h2 className="pt-6 text-lg">Instruments</h2>
      <ul>
        {instruments.map((i) => (
          <li key={i.id} className="flex flex-wrap items-center justify-between gap-x-6 border-b border-base-300 py-1">
            <span>
              <strong>{i.name}</strong> {i.serial && <span className="font-mono">{i.serial}</span>}{' '}
              <span className="text-sm soft">
                {listed(
                  INSTRUMENT_KINDS[i.kind].label,
                  i.uncertainty !== null && `good to ±${i.uncertainty} ${i.unit}`,
                  i.calibratedAt ? `calibrated ${day(i.calibratedAt, timeZone)}` : 'calibration not noted',
                )}
              </span>
            </span>
            {i.sensorId ? (
              <Link
                to={`/rig/sensor/${i.sensorId}`}
                className="min-h-11 content-center text-sm underline underline-offset-4"
              >
                The sensor
              </Link>
            ) : (
              <button
                type="button"
                className="min-h-11 text-sm underline underline-offset-4"
                aria-label={`${i.name} was calibrated again`}
                onClick={() => setNoting(i.id)}
              >
                Calibrated again
              </button>
            )}
          </li>
        ))}
      </ul>
      {instruments.length === 0 && (
        <p className="max-w-prose py-3">
          None yet: hand meters, thermometers, kits and simulators, with their own dates.
        </p>
      )}
      {noting === null ? (
        <p className="py-3">
          <button type="button" className="slant" onClick={() => setNoting('new')}>
            Add an instrument
          </button>
        </p>
      ) : (
        <div className="max-w-md pt-3">
          <NewInstrument
            key={noting}
            kinds={KINDS_OF_INSTRUMENT}
            units={READ_IN}
            {...(start ? { start } : {})}
            onClose={() => setNoting(null)}
            onAdded={() => setNoting(null)}
          />
        </div>
      )}
    </section>
  )
}

interface ListProps<T> {
  items: readonly T[]
  empty: string
  action?: React.ReactNode
  children: (item: T) => React.ReactNode
}

function List<T>({ items, empty, action, children }: ListProps<T>) {
  return (
    <>
      <ul>{items.map(children)}</ul>
      {items.length === 0 && <p className="max-w-prose py-3">{empty}</p>}
      {action && <p className="py-3">{action}</p>}
    </>
  )
}

const New = ({ subject, children }: { subject: string; children: string }) => (
  <For needs="lead">
    <Link to={`/rig/${subject}/new`} className="slant">
      {children}
    </Link>
  </For>
)

interface LineProps {
  to: string
  title: string
  away: React.ReactNode
  children: React.ReactNode
}

function Line({ to, title, away: putAway, children }: LineProps) {
  return (
    <li className="flex flex-wrap items-center justify-between gap-x-6 border-b border-base-300 py-1">
      <Link to={to} className="min-h-11 w-full content-center font-bold hover:underline sm:w-56">
        {title}
        {putAway}
      </Link>
      <span className="flex flex-1 flex-wrap items-center justify-between gap-x-6 text-sm">{children}</span>
    </li>
  )
}
