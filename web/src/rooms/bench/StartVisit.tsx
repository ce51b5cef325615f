import { PH_BUFFERS, proposeBuffers, type VisitKind } from '@frustum/core'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Navigate, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { bufferLabel, day, ph, sentence } from '../../parts/format.ts'
import { Fetching } from '../../parts/Problem.tsx'
import { SmallFrustum } from '../../parts/SmallFrustum.tsx'
import { StateMark } from '../../parts/StateMark.tsx'
import { askerOf, problemOf, useProbeQuery, useSiteQuery, useStartVisitMutation } from '../../store/api.ts'
import { useAppSelector } from '../../store/store.ts'
import { Caution } from './Caution.tsx'

const TECHNICAL = PH_BUFFERS.filter((b) => b.family === 'technical')

/** Before a visit: what to take along, and how far to go. */
export function StartVisit() {
  const { position = '' } = useParams()
  const { data: probe, error, refetch } = useProbeQuery(position, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const [start, { isLoading }] = useStartVisitMutation()
  const asker = useAppSelector(askerOf)
  const navigate = useNavigate()
  const [choice, setChoice] = useState<{ kind?: VisitKind; first?: string; second?: string }>({})

  const proposed = proposeBuffers(probe?.processValue ?? 7)
  const kind = choice.kind ?? (probe?.driftState === 'holding' ? 'check' : 'two-point')
  const first = choice.first ?? proposed.first
  const second = choice.second ?? proposed.second
  const same = first === second
  const begin = async () => {
    if (isLoading || same) return
    const answer = await start({ position, kind, first, second, ...asker })
    if (answer.data) void navigate(`/bench/${answer.data.id}`, { replace: true })
    else toast.error(problemOf(answer.error).message)
  }
  useHotkeys('space', () => void begin(), { preventDefault: true })

  if (!probe || !site) return <Fetching what={position} error={error} onRetry={refetch} />
  if (probe.openVisit) return <Navigate to={`/bench/${probe.openVisit.id}`} replace />
  const { timeZone } = site
  const near = !same && Math.abs(nominal(first) - nominal(second)) < 2
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <div className="flex flex-wrap items-center justify-between gap-4 border-b border-base-300 pb-4">
        <div>
          <h1 className="text-2xl">{probe.position}</h1>
          <p className="soft">
            {probe.place}, {probe.spot} · normally {ph(probe.processValue)}, limit ± {ph(probe.figure.policy.tolerance)}{' '}
            pH
          </p>
        </div>
        <SmallFrustum figure={probe.figure} />
        <StateMark state={probe.driftState} large />
      </div>
      <p className="py-4 text-pretty">
        {sentence(probe.reason)} Last visit {day(probe.figure.forecast.from, timeZone)}.
      </p>
      {probe.cautions.map((c) => (
        <Caution key={c}>{c}</Caution>
      ))}
      <fieldset className="py-3">
        <legend className="pb-2 font-bold">How far?</legend>
        <div className="grid gap-4 sm:grid-cols-2">
          <Choice
            on={kind === 'check'}
            onChoose={() => setChoice({ ...choice, kind: 'check' })}
            title="Check only"
            cups="1 cup"
          >
            One fresh buffer. Close enough: leave it alone. If not, go on to calibrate from there.
          </Choice>
          <Choice
            on={kind === 'two-point'}
            onChoose={() => setChoice({ ...choice, kind: 'two-point' })}
            title="Two points"
            cups="3 cups"
          >
            As found, clean, two buffers, slope and zero, verify.
          </Choice>
        </div>
      </fieldset>
      <div className="flex flex-wrap gap-x-8 gap-y-3 py-3">
        <Standard label="First buffer" value={first} onChange={(v) => setChoice({ ...choice, first: v })} />
        <Standard label="Second buffer" value={second} onChange={(v) => setChoice({ ...choice, second: v })} />
        <p role="status" className="min-h-6 w-full text-warning">
          {same && 'Both are the same buffer; a slope needs two different ones.'}
          {near && 'These are less than 2 pH apart; the slope from them is mostly noise.'}
        </p>
      </div>
      <p className="soft">
        Lay out: fresh pourings in plastic cups, rinse water, tissue, waste cup, cleaner, soft brush.
      </p>
      <button
        type="button"
        className="slant slant-strong mt-5 min-h-14 px-8 text-xl max-sm:w-full"
        disabled={isLoading || same}
        onClick={() => void begin()}
      >
        Start <kbd className="key">Space</kbd>
      </button>
    </div>
  )
}

const nominal = (code: string) => PH_BUFFERS.find((b) => b.code === code)?.nominal ?? 7

interface ChoiceProps {
  on: boolean
  onChoose: () => void
  title: string
  cups: string
  children: string
}

function Choice({ on, onChoose, title, cups, children }: ChoiceProps) {
  return (
    <label
      className={`flex cursor-pointer gap-3 border p-4 ${on ? 'border-primary bg-secondary' : 'border-[color:var(--line)]'}`}
    >
      <input
        type="radio"
        name="kind"
        className="radio mt-1 border-[color:var(--line)] text-primary"
        checked={on}
        onChange={onChoose}
      />
      <span>
        <span className="flex justify-between gap-4 font-bold">
          {title} <span className="font-normal soft">{cups}</span>
        </span>
        <span className="block">{children}</span>
      </span>
    </label>
  )
}

function Standard({ label, value, onChange }: { label: string; value: string; onChange: (code: string) => void }) {
  return (
    <label className="block">
      <span className="block font-bold">{label}</span>
      <select
        className="min-h-11 w-72 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      >
        <optgroup label="Technical">
          {TECHNICAL.map((b) => (
            <option key={b.code} value={b.code}>
              {bufferLabel(b.code)}
            </option>
          ))}
        </optgroup>
        <optgroup label="Primary">
          {PH_BUFFERS.filter((b) => b.family === 'primary').map((b) => (
            <option key={b.code} value={b.code}>
              {b.nominal.toFixed(3)} · {b.label}
            </option>
          ))}
        </optgroup>
      </select>
    </label>
  )
}
