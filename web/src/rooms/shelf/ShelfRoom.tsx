import { decimalMark, type LotView, type ShelfView } from '@frustum/contract'
import { kindOf, nullIfOutOfRange, POURING_ML, readTypedTemperature, sensorKinds, standardOf } from '@frustum/core'
import { Printer } from 'lucide-react'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { calendarDay, celsius, day, daysUntil, fixed, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { standardLabel } from '../../components/standardLabel.ts'
import { useActOnLotMutation, useShelfQuery, useSiteQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { inUnit } from '../bench/TemperatureUnit.tsx'
import { NewLot } from './NewLot.tsx'

/** Solutions: what is left of each, what it is worth at a temperature, what must be bought by when. */
export function ShelfRoom() {
  const { data: shelf, error, refetch } = useShelfQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const { fahrenheit } = useAppSelector((s) => s.person)
  const [temperature, setTemperature] = useState(fahrenheit ? '77' : '25')
  const [adding, setAdding] = useState(false)
  const [all, setAll] = useState(false)
  if (!shelf || !site) return <Fetching what="the Shelf" error={error} onRetry={refetch} />
  const typed = readTypedTemperature(inUnit(temperature, fahrenheit) ?? '', decimalMark())
  const degrees = typed.ok ? typed.value : Number.NaN
  const known = degrees >= -5 && degrees <= 110
  const lots = shelf.lots.filter((l) => all || l.state !== 'discarded')
  const kinds = sensorKinds().filter((k) => lots.some((l) => l.kind === k))
  return (
    <div className="mx-auto w-full max-w-[1300px] px-5 py-5">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-3 border-b border-base-300 pb-3">
        <h1 className="text-2xl">Shelf</h1>
        <label className="flex items-center gap-2">
          <span>Values at</span>
          <input
            className="h-11 w-20 border border-[color:var(--line)] bg-base-100 px-2 text-lg"
            inputMode="decimal"
            value={temperature}
            aria-invalid={!known}
            onChange={(e) => setTemperature(e.target.value)}
          />
          <span>{fahrenheit ? '°F' : '°C'}</span>
        </label>
        <div className="flex gap-4">
          <Link to="/shelf/labels" className="slant">
            <Printer className="size-4" aria-hidden="true" /> Labels
          </Link>
          <For needs="operator">
            <button type="button" className="slant slant-strong" onClick={() => setAdding(!adding)}>
              {adding ? 'Cancel' : 'Add bottle'}
            </button>
          </For>
        </div>
      </div>
      {!known && (
        <p role="alert" className="pt-2 text-error">
          Enter a temperature from {celsius(-5)} to {celsius(110)}.
        </p>
      )}
      {adding && <NewLot onDone={() => setAdding(false)} />}
      <ToBuy shelf={shelf} />
      {shelf.lots.length === 0 && <p className="py-8">Nothing stands here yet. Add the first bottle.</p>}
      {kinds.map((kind) => (
        <section key={kind}>
          <h2 className="border-b border-base-300 pt-6 pb-2 text-base soft">{kindOf(kind).name}</h2>
          <ul>
            {lots
              .filter((l) => l.kind === kind)
              .map((lot) => (
                <LotRow key={lot.id} lot={lot} celsius={known ? degrees : null} timeZone={site.timeZone} />
              ))}
          </ul>
        </section>
      ))}
      <label className="flex min-h-11 items-center gap-3 pt-5 soft">
        <input
          type="checkbox"
          className="checkbox border-[color:var(--line)]"
          checked={all}
          onChange={(e) => setAll(e.target.checked)}
        />
        Show what was thrown away, too
      </label>
    </div>
  )
}

function ToBuy({ shelf }: { shelf: ShelfView }) {
  if (shelf.toBuy.length === 0) return null
  return (
    <section className="mt-4 border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-3">
      <h2 className="text-base">Order</h2>
      <ul className="grid gap-x-10 gap-y-1 md:grid-cols-2">
        {shelf.toBuy.map((b) => (
          <li key={b.standard}>
            <strong>{b.label}</strong> {daysUntil(b.by) <= 0 ? 'now' : `by ${calendarDay(b.by)}`}. {b.why}
          </li>
        ))}
      </ul>
    </section>
  )
}

const STATE_TONES: Record<LotView['state'], string> = {
  good: 'text-success',
  ending: 'text-warning',
  spent: 'text-error',
  expired: 'text-error',
  'open too long': 'text-error',
  discarded: 'soft',
}

function LotRow({ lot, celsius, timeZone }: { lot: LotView; celsius: number | null; timeZone: string }) {
  const [act, { isLoading }] = useActOnLotMutation()
  const { operator } = useAppSelector(actorOf)
  // The code on a label leads here, to its own bottle.
  const [search] = useSearchParams()
  const [open, setOpen] = useState(search.get('lot') === lot.lot)
  const value =
    celsius === null
      ? null
      : nullIfOutOfRange(() => {
          try {
            return standardOf(lot.standard).valueAt(celsius, lot.ownTable ?? undefined)
          } catch (error) {
            if (error instanceof RangeError) return null
            throw error
          }
        })
  const does = async (action: 'open' | 'discard' | 'use', more: { milliliters?: number; reason?: string } = {}) => {
    const answer = await act({ id: String(lot.id), operator, action, ...more })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  const share = Math.max(0, Math.min(1, lot.left / lot.volume))
  const days = daysUntil(lot.goodUntil)
  return (
    <li className="border-b border-base-300 py-2">
      <div className="grid grid-cols-2 items-center gap-x-5 gap-y-1 md:grid-cols-[minmax(0,1.4fr)_10rem_10rem_minmax(0,1fr)_auto]">
        <span>
          <span className="block font-bold">{standardLabel(lot.standard)}</span>
          <span className="block text-sm soft">
            lot <span className="font-mono">{lot.lot}</span> · {lot.storage}
            {lot.ownTable ? ' · own table' : ''}
          </span>
        </span>
        <span className="font-mono text-lg">{valueText(lot, value)}</span>
        <Bottle share={share} left={lot.left} volume={lot.volume} />
        <span className="text-sm">
          <strong className={STATE_TONES[lot.state]}>{lot.state}</strong>
          <br />
          {lot.openedOn ? `opened ${day(lot.openedOn, timeZone)}, ` : 'closed, '}
          {days >= 0 ? `good ${plural(days, 'more day', 'more days')}` : `ended ${calendarDay(lot.goodUntil)}`}
        </span>
        <span className="flex gap-2 justify-self-end max-md:col-span-2">
          <button type="button" className="slant slant-plain" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Close' : 'More'}
          </button>
        </span>
      </div>
      {open && (
        <div className="flex flex-wrap items-start gap-x-8 gap-y-3 py-3">
          {lot.state !== 'discarded' && (
            <For needs="operator">
              <div className="flex flex-wrap gap-3">
                {!lot.openedOn && (
                  <button type="button" className="slant" disabled={isLoading} onClick={() => void does('open')}>
                    Opened today
                  </button>
                )}
                <button
                  type="button"
                  className="slant"
                  disabled={isLoading}
                  onClick={() => void does('use', { milliliters: POURING_ML, reason: 'poured' })}
                >
                  {POURING_ML} mL poured
                </button>
                <button
                  type="button"
                  className="slant slant-plain"
                  disabled={isLoading}
                  onClick={() => void does('discard')}
                >
                  Thrown away
                </button>
              </div>
            </For>
          )}
          <div className="text-sm">
            {lot.uses.length === 0 ? (
              <p className="soft">Nothing was poured from it yet.</p>
            ) : (
              <ul>
                {lot.uses.map((u) => (
                  <li key={u.at + u.reason}>
                    {day(u.at, timeZone)}: {fixed(u.milliliters, 0)} mL, {u.position ?? u.reason}
                  </li>
                ))}
              </ul>
            )}
          </div>
        </div>
      )}
    </li>
  )
}

/** The value on the label's scale, large conductivities in mS/cm; redox potentials are against hydrogen. */
function valueText(lot: LotView, value: number | null): string {
  return value === null ? 'not known there' : text(standardOf(lot.standard).quantityOf(value))
}

/** How full it is: a flask seen from the side, wider at its foot. */
function Bottle({ share, left, volume }: { share: number; left: number; volume: number }) {
  const level = 26 - 24 * share
  return (
    <span className="flex items-center gap-2 text-sm">
      <svg viewBox="0 0 24 28" className="h-7 w-6 shrink-0" aria-hidden="true">
        <clipPath id={`flask-${Math.round(left)}-${volume}`}>
          <path d="M8 2 H16 L22 26 H2 Z" />
        </clipPath>
        <rect
          x="0"
          y={level}
          width="24"
          height="28"
          className="fill-primary"
          fillOpacity={0.55}
          clipPath={`url(#flask-${Math.round(left)}-${volume})`}
        />
        <path d="M8 2 H16 L22 26 H2 Z" className="fill-none stroke-base-content" strokeWidth={1.4} />
      </svg>
      {fixed(Math.max(0, left), 0)} of {fixed(volume, 0)} mL
    </span>
  )
}
