import { USUAL_READER } from '@frustum/core'
import { Ruler } from 'lucide-react'
import { lazy, Suspense, useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router'
import { Toaster } from 'sonner'
import { followReader, weekdayTime } from '../components/format.ts'
import { Fetching } from '../components/Problem.tsx'
import { useOutbox } from '../rooms/bench/useVisitActions.ts'
import { useMeQuery, useSiteQuery } from '../store/api.ts'
import { useNow } from '../store/clock.ts'
import { operatorChosen, temperatureUnitChosen, themeChosen } from '../store/person.ts'
import { useAppDispatch, useAppSelector } from '../store/store.ts'
import { AlarmBadge } from './AlarmBadge.tsx'
import { HoldStrip } from './HoldStrip.tsx'
import { KeysDialog } from './KeysDialog.tsx'
import { ViewOnly } from './only.tsx'
import { useTheme } from './useTheme.ts'
import { WaitStrip } from './WaitStrip.tsx'

// Most who open a page are signed in, or need not be.
const SignIn = lazy(async () => ({ default: (await import('../rooms/people/SignIn.tsx')).SignIn }))
const SwitchPerson = lazy(async () => ({ default: (await import('../rooms/people/SwitchPerson.tsx')).SwitchPerson }))

const ROOMS = [
  { to: '/', name: 'Rounds', key: '1' },
  { to: '/bench', name: 'Bench', key: '2' },
  { to: '/probes', name: 'Probes', key: '3' },
  { to: '/plan', name: 'Plan', key: '4' },
  { to: '/shelf', name: 'Shelf', key: '5' },
  { to: '/reckoner', name: 'Reckoner', key: '6' },
  { to: '/ledger', name: 'Ledger', key: '8' },
  { to: '/rig', name: 'Rig', key: '9' },
] as const

export function Shell() {
  const { data: me, error: noMe, refetch: lookAgain } = useMeQuery(undefined, { refetchOnFocus: true })
  const isIn = me !== undefined && (!me.signIn || me.person !== null)
  const { data: site } = useSiteQuery(undefined, { skip: !isIn })
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const location = useLocation()
  const operator = useAppSelector((s) => s.person.operator)
  const { shown, other } = useTheme()
  const [keys, setKeys] = useState(false)
  const unsent = useOutbox()
  const [switching, setSwitching] = useState(false)
  const firstOperator = site?.operators[0]
  const signedInAs = me?.person?.name
  const reader = operator ? site?.readers[operator] : undefined
  const choices = reader?.choices ?? USUAL_READER
  followReader(choices)

  useEffect(() => {
    if (!operator && firstOperator) dispatch(operatorChosen(firstOperator))
  }, [operator, firstOperator, dispatch])
  // Where people sign in, who acts is who is signed in.
  useEffect(() => {
    if (signedInAs && signedInAs !== operator) dispatch(operatorChosen(signedInAs))
  }, [signedInAs, operator, dispatch])
  // Who reads temperatures in °F types them so, until the unit beside the field is pressed.
  const inFahrenheit = choices.temperature === '°F'
  useEffect(() => {
    if (inFahrenheit) dispatch(temperatureUnitChosen(true))
  }, [inFahrenheit, dispatch])
  useEffect(() => {
    document.documentElement.dataset.theme = shown
  }, [shown])
  // The path is read so that a change of room starts at the top.
  // biome-ignore lint/correctness/useExhaustiveDependencies: runs on every change of path
  useEffect(() => {
    window.scrollTo(0, 0)
  }, [location.pathname])

  useHotkeys(
    ROOMS.map((r) => r.key),
    (event) => {
      const room = ROOMS.find((r) => r.key === event.key)
      if (room) void navigate(room.to)
    },
    { enabled: !TYPES_NUMBERS.test(location.pathname) },
  )
  useHotkeys('?', () => setKeys(true), { useKey: true })
  useHotkeys('t', () => void dispatch(themeChosen(other)))

  return (
    <div className="flex min-h-dvh flex-col">
      <header className="group/head no-print flex min-h-14 items-center gap-4 border-b border-base-300 px-4 sm:px-6">
        <a href="#main" className="sr-only focus:not-sr-only">
          Skip to the page
        </a>
        <Mark />
        {/* On a phone the name gives way to alarms: both do not fit beside who works. */}
        <span className="text-lg font-bold max-sm:group-has-data-alarms/head:hidden">Frustum</span>
        <span className="hidden soft md:inline">{site?.exists && site.name}</span>
        <span className="ml-auto hidden font-mono soft lg:inline">
          <Now timeZone={site?.timeZone ?? 'UTC'} />
        </span>
        {isIn && <AlarmBadge />}
        {unsent > 0 && (
          <span role="status" className="font-bold whitespace-nowrap text-warning">
            {unsent} queued
          </span>
        )}
        <button type="button" className="min-h-11 px-2 max-lg:ml-auto" onClick={() => dispatch(themeChosen(other))}>
          {other === 'lamp' ? 'Lamp' : 'Chalk'} <kbd className="key">T</kbd>
        </button>
        {me?.person && (
          <button
            type="button"
            className="min-h-11 max-w-40 truncate px-1 font-bold underline underline-offset-4"
            aria-haspopup="dialog"
            onClick={() => setSwitching(true)}
          >
            {me.person.name}
          </button>
        )}
        <label className="flex items-center" hidden={!site?.exists || me?.signIn !== false}>
          <span className="sr-only">Operator</span>
          <select
            className="min-h-11 bg-base-100 px-1 font-bold"
            value={operator ?? ''}
            onChange={(e) => dispatch(operatorChosen(e.target.value))}
          >
            {[...new Set([...(site?.operators ?? []), ...(operator ? [operator] : [])])].map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        {reader && !me?.signIn && (
          <Link
            to={`/rig/person/${reader.id}`}
            className="grid min-h-11 min-w-11 place-content-center max-sm:hidden"
            aria-label={`Units and dates of ${operator}`}
            title="Units and dates"
          >
            <Ruler className="size-5" aria-hidden="true" />
          </Link>
        )}
        <button type="button" className="min-h-11 min-w-11 font-bold" aria-label="Keys" onClick={() => setKeys(true)}>
          ?
        </button>
      </header>
      {isIn && <ViewOnly />}
      {isIn && <HoldStrip />}
      {isIn && <WaitStrip />}
      <div className="flex flex-1 flex-col sm:flex-row">
        <nav
          aria-label="Rooms"
          hidden={me?.signIn && !isIn}
          className="no-print order-last flex border-base-300 bg-base-100 max-sm:sticky max-sm:bottom-0 max-sm:z-20 max-sm:border-t sm:order-first sm:w-32 sm:shrink-0 sm:flex-col sm:border-r sm:pt-3"
        >
          {ROOMS.map((room) => (
            <NavLink
              key={room.to}
              to={room.to}
              end={room.to === '/'}
              className={({ isActive }) =>
                `flex min-h-11 flex-1 items-center justify-between gap-2 px-2 max-sm:justify-center max-sm:px-1 max-sm:text-xs sm:flex-none sm:px-5 ${isActive ? 'room-here font-bold' : 'soft hover:text-base-content'}`
              }
            >
              {room.name}
              <kbd className="key max-sm:hidden">{room.key}</kbd>
            </NavLink>
          ))}
          <NavLink
            to="/site"
            className={({ isActive }) =>
              `flex min-h-11 items-center px-5 max-sm:hidden sm:mt-6 ${isActive ? 'room-here font-bold' : 'soft hover:text-base-content'}`
            }
          >
            Site
          </NavLink>
        </nav>
        {/* Written anew for another reader. */}
        <main id="main" key={JSON.stringify(choices)} className="flex min-w-0 flex-1 flex-col">
          <Suspense fallback={<p className="p-8">Loading</p>}>
            {isIn ? <Outlet /> : me ? <SignIn /> : <Fetching what="Frustum" error={noMe} onRetry={lookAgain} />}
          </Suspense>
        </main>
      </div>
      {keys && <KeysDialog onClose={() => setKeys(false)} />}
      {switching && me?.person && (
        <Suspense>
          <SwitchPerson onClose={() => setSwitching(false)} />
        </Suspense>
      )}
      <Toaster
        className="no-print"
        position="top-center"
        theme={shown === 'lamp' ? 'dark' : 'light'}
        toastOptions={{ style: { borderRadius: 0, fontFamily: 'inherit' } }}
      />
    </div>
  )
}

function Mark() {
  return (
    <svg viewBox="0 0 24 24" className="size-6 shrink-0" aria-hidden="true">
      <path d="M1 9 L13 6 V18 L1 15 Z" className="fill-primary" />
      <path d="M14 5.7 L23 3.5 V20.5 L14 18.3 Z" className="fill-primary" fillOpacity={0.4} />
    </svg>
  )
}

function Now({ timeZone }: { timeZone: string }) {
  return weekdayTime(useNow(15_000), timeZone)
}
/** An open visit and a sheet of readings: a digit there is the beginning of a number, also before its field has the focus. */
const TYPES_NUMBERS = /^\/(bench|walk)\/(?!start)/
