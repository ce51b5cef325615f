import { formSchema, type StartingView } from '@frustum/contract'
import { type FieldSpec, newStandardFields, POURING_ML } from '@frustum/core'
import { yupResolver } from '@hookform/resolvers/yup'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { useHotkeys } from 'react-hotkeys-hook'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { ago, day, listed, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { SmallFrustum } from '../../components/SmallFrustum.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { standardLabel } from '../../components/standardLabel.ts'
import { useProbeQuery, useSiteQuery, useStartingQuery, useStartVisitMutation } from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { NewForm } from '../rig/NewThing.tsx'
import { PutInUse } from '../setUp/PutInUse.tsx'
import { NewLot } from '../shelf/NewLot.tsx'
import { Cautions } from './Caution.tsx'
import { FormFields, usualText } from './FormFields.tsx'
import type { FormTexts } from './formTexts.ts'
import { AuthorityRule } from './ResultPanel.tsx'

/** Before a visit: how far to go, what to take along, what should come first. */
export function StartVisit() {
  const { position = '' } = useParams()
  const { data: starting, error, refetch } = useStartingQuery(position, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!starting || !site) return <Fetching what={position} error={error} onRetry={refetch} />
  return <Start key={`${position} ${starting.occupied}`} starting={starting} timeZone={site.timeZone} />
}

/** Procedures that are seen without asking for more. */
const SHOWN = 3

type Offer = StartingView['procedures'][number]

const usualTexts = (fields: readonly FieldSpec[]): FormTexts =>
  Object.fromEntries(fields.map((f) => [f.key, usualText(f)]))

function Start({ starting, timeZone }: { starting: StartingView; timeZone: string }) {
  const { position, procedures } = starting
  const { data: probe } = useProbeQuery(position, { skip: !starting.occupied, refetchOnMountOrArgChange: true })
  const [search] = useSearchParams()
  const [start, { isLoading }] = useStartVisitMutation()
  const asker = useAppSelector(actorOf)
  const navigate = useNavigate()
  const [id, setId] = useState(procedures.find((p) => p.proposed)?.id ?? procedures[0]?.id ?? '')
  const [standards, setStandards] = useState<Record<string, string>>({})
  const [adding, setAdding] = useState<{ what: 'bottle' | 'standard'; role: string } | null>(null)
  const [addedLabel, setAddedLabel] = useState<{ role: string; label: string } | null>(null)
  const addsStandards = useMay('lead')
  const [overriding, setOverriding] = useState(false)
  const [all, setAll] = useState(false)
  // The proposed one first, two beside it; the rest is one tap away, so that the button to start stays in sight.
  const ranked = procedures.toSorted((a, b) => Number(b.proposed) - Number(a.proposed))
  const offered = all ? ranked : ranked.slice(0, SHOWN)
  const others = ranked
    .slice(SHOWN)
    .map((p) => p.name.toLowerCase())
    .join(', ')
  const offer = procedures.find((p) => p.id === id)
  const form = useForm<FormTexts>({
    resolver: yupResolver(formSchema(offer?.opening ?? [])) as never,
    values: usualTexts(offer?.opening ?? []),
    resetOptions: { keepDirtyValues: true },
  })
  // A standard that was just added is chosen as soon as it is offered.
  const isAdded = (code: string) => standardLabel(code) === addedLabel?.label
  const added = offer?.roles.find((r) => r.role === addedLabel?.role)?.choices.findLast(isAdded)
  if (added && addedLabel) {
    setStandards({ ...standards, [addedLabel.role]: added })
    setAddedLabel(null)
  }
  const chosen = (o: Offer) => Object.fromEntries(o.roles.map((r) => [r.role, standards[r.role] ?? r.choices[0] ?? '']))
  const codes = offer ? Object.values(chosen(offer)) : []
  const same = new Set(codes).size < codes.length
  const begin = async (opening: FormTexts, override?: string, what = offer) => {
    if (!what || isLoading || (what === offer && same)) return
    const trip = search.get('trip')
    const answer = await start({
      position,
      procedure: what.id,
      standards: chosen(what),
      opening,
      ...(trip ? { trip } : {}),
      ...(override ? { override } : {}),
      ...asker,
    })
    if (answer.data) void navigate(`/bench/${answer.data.id}`, { replace: true })
    else {
      const problem = problemOf(answer.error)
      toast.error(problem.message, { description: [problem.detail, problem.hint].filter(Boolean).join(' ') })
    }
  }
  const press = form.handleSubmit((opening) => {
    if (offer && offer.unmet.length > 0) setOverriding(true)
    else void begin(opening)
  })
  const last = procedures.find((p) => p.id === starting.last)
  const repeatLast = () => {
    if (!last) return
    setId(last.id)
    // Other sensors first: that is decided in sight of them.
    if (last.unmet.length === 0) void begin(usualTexts(last.opening), undefined, last)
  }
  useHotkeys('space', () => void press(), { preventDefault: true })
  if (probe?.openVisit) return <Navigate to={`/bench/${probe.openVisit.id}`} replace />
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <div className="flex flex-wrap items-center justify-between gap-4 border-b border-base-300 pb-4">
        <div>
          <h1 className="text-2xl">{position}</h1>
          <p className="soft">
            {listed(starting.spot ? `${starting.place}, ${starting.spot}` : starting.place, starting.quantity)},
            normally {text(starting.process)}, limit ± {text(starting.tolerance)}
          </p>
        </div>
        {probe && <SmallFrustum figure={probe.figure} />}
        {probe && <StateMark state={probe.driftState} large />}
      </div>
      <p className="pt-4 text-pretty">
        {probe
          ? `${text(probe.reason)} ${probe.visits.length > 0 ? 'Last visit' : 'Here since'} ${day(probe.figure.from, timeZone)}.`
          : starting.occupied
            ? ''
            : 'No sensor on record.'}{' '}
        {starting.setting && <span className="soft">Device: {starting.setting}.</span>}
      </p>
      {!starting.occupied && (
        <p className="flex flex-wrap items-center gap-x-4 gap-y-2 pt-3">
          <PutInUse position={position} id={starting.positionId} />
          <span className="soft">For a new sensor, commission it below.</span>
        </p>
      )}
      <Cautions cautions={starting.cautions} />
      {starting.authorityRule && <AuthorityRule rule={starting.authorityRule} />}
      {starting.numbersChanged && (
        <p className="border-l-4 border-error pl-3 text-pretty" role="status">
          {text(starting.numbersChanged)}
        </p>
      )}
      <fieldset className="py-3">
        <legend className="float-left w-full pb-2 font-bold">What do you want to do?</legend>
        <div className="clear-both grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
          {offered.map((p) => (
            <Choice key={p.id} offer={p} on={p.id === id} onChoose={() => setId(p.id)} />
          ))}
        </div>
        {!all && procedures.length > offered.length && (
          <button type="button" className="min-h-11 pt-1 underline underline-offset-4" onClick={() => setAll(true)}>
            {plural(procedures.length - offered.length, 'other way', 'other ways')}: {others}
          </button>
        )}
      </fieldset>
      {offer && (
        <div className="space-y-4">
          {offer.roles.length > 0 && (
            <div className="flex flex-wrap gap-x-8 gap-y-3">
              {offer.roles.map((r) => (
                <RoleSelect
                  key={r.role}
                  role={r}
                  value={chosen(offer)[r.role] ?? ''}
                  lot={starting.lots[chosen(offer)[r.role] ?? ''] ?? null}
                  onChange={(code) => setStandards({ ...standards, [r.role]: code })}
                  addsStandards={addsStandards}
                  onAdd={(what) => setAdding({ what, role: r.role })}
                />
              ))}
              {adding && (
                <section aria-label="Add to Shelf" className="w-full border-l-4 border-primary pl-4">
                  <h2 className="flex items-center justify-between text-lg">
                    {adding.what === 'bottle' ? 'New bottle' : 'New standard'}
                    <button
                      type="button"
                      className="min-h-11 text-base font-normal underline underline-offset-4"
                      onClick={() => setAdding(null)}
                    >
                      Cancel
                    </button>
                  </h2>
                  {adding.what === 'bottle' ? (
                    <NewLot standard={chosen(offer)[adding.role] ?? ''} onDone={() => setAdding(null)} />
                  ) : (
                    <NewForm
                      subject="standard"
                      title="New standard"
                      fields={newStandardFields().filter((f) => f.key !== 'kind' && isOfKind(f, starting.kind))}
                      begin={{ kind: starting.kind }}
                      onAdded={({ title }) => {
                        setAdding(null)
                        setAddedLabel({ role: adding.role, label: title })
                      }}
                    />
                  )}
                </section>
              )}
              <p role="status" className="min-h-6 w-full text-warning">
                {same && 'Two of them are the same; a slope needs different ones.'}
              </p>
            </div>
          )}
          {offer.opening.length > 0 && <FormFields fields={offer.opening} form={form} />}
          {offer.unmet.length > 0 && <Unmet offer={offer} trip={search.get('trip')} />}
          <p className="soft">
            Lay out: {offer.needs.toLowerCase()}, rinse water, tissue, waste cup, cleaner, soft brush. About{' '}
            {offer.minutes} min hands-on.
          </p>
          <p className="flex flex-wrap items-center gap-x-6 gap-y-3">
            <button
              type="button"
              className="slant slant-strong min-h-14 px-8 text-xl max-sm:w-[94%]"
              disabled={isLoading || same}
              onClick={() => void press()}
            >
              {offer.unmet.length > 0 ? 'Start anyway' : 'Start visit'} <kbd className="key">Space</kbd>
            </button>
            {last && last.id !== id && (
              <button type="button" className="slant slant-plain" disabled={isLoading} onClick={repeatLast}>
                As last time: {last.name}
              </button>
            )}
          </p>
        </div>
      )}
      {overriding && (
        <ReasonDialog
          title={`Start before ${offer?.unmet.map((u) => u.position).join(' and ')}?`}
          explain={offer?.unmet[0]?.why ?? ''}
          usual={['Only this one is asked for', 'They were checked by others', 'Testing']}
          confirm="Start anyway"
          onClose={() => setOverriding(false)}
          onConfirm={(reason) => {
            setOverriding(false)
            void begin(form.getValues(), reason)
          }}
        />
      )}
    </div>
  )
}

function Choice({ offer, on, onChoose }: { offer: Offer; on: boolean; onChoose: () => void }) {
  return (
    <label
      className={`flex cursor-pointer gap-3 border p-3 ${on ? 'border-primary bg-secondary text-secondary-content' : 'border-[color:var(--line)]'}`}
    >
      <input
        type="radio"
        name="procedure"
        className="radio mt-1 border-[color:var(--line)] text-primary"
        checked={on}
        onChange={onChoose}
      />
      <span>
        <span className="block font-bold">{offer.name}</span>
        <span className="block text-sm">{offer.summary}</span>
        <span className="block pt-1 text-sm soft">
          {offer.needs} · {offer.minutes} min
        </span>
      </span>
    </label>
  )
}

interface RoleSelectProps {
  role: Offer['roles'][number]
  value: string
  lot: StartingView['lots'][string]
  onChange: (code: string) => void
  /** Only a lead may; a bottle is added by anyone who may start a visit. */
  addsStandards: boolean
  onAdd: (what: 'bottle' | 'standard') => void
}

/** Whether a field of a new standard is asked for this kind of sensor. */
const isOfKind = ({ when }: FieldSpec, kind: string) => when?.key !== 'kind' || when.is.includes(kind)

function RoleSelect({ role, value, lot, onChange, addsStandards, onAdd }: RoleSelectProps) {
  const warning = !lot
    ? 'none on the Shelf'
    : lot.expired
      ? `lot ${lot.lot} expired ${plural(lot.daysOver, 'day')} ago`
      : lot.openTooLong
        ? `lot ${lot.lot} open too long`
        : lot.left < POURING_ML * role.pours
          ? `lot ${lot.lot}: ${Math.max(0, lot.left)} mL left, ${POURING_ML * role.pours} mL needed`
          : null
  return (
    <div>
      <label className="block">
        <span className="block font-bold">{role.label}</span>
        <select
          className="min-h-11 w-80 max-w-full border border-[color:var(--line)] bg-base-100 px-3 text-lg"
          value={value}
          onChange={(e) => onChange(e.target.value)}
        >
          {role.choices.map((code) => (
            <option key={code} value={code}>
              {standardLabel(code)}
            </option>
          ))}
        </select>
        <span className={`block text-sm ${warning ? 'font-bold text-warning' : 'soft'}`}>
          {warning ??
            (role.pours > 0
              ? `lot ${lot?.lot}, ${plural(role.pours, 'pouring')} of ${POURING_ML} mL`
              : `lot ${lot?.lot}, only if you go on to calibrate`)}
        </span>
      </label>
      <p className="flex gap-x-5 text-sm">
        {!lot && (
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => onAdd('bottle')}>
            Add bottle
          </button>
        )}
        {addsStandards && (
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => onAdd('standard')}>
            Not listed
          </button>
        )}
      </p>
    </div>
  )
}

function Unmet({ offer, trip }: { offer: Offer; trip: string | null }) {
  return (
    <section className="border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-3">
      <h2 className="text-base">These come first</h2>
      <p className="pb-2">{offer.unmet[0]?.why}</p>
      <ul className="flex flex-wrap gap-4">
        {offer.unmet.map((u) => (
          <li key={u.position}>
            <Link className="slant" to={`/bench/start/${u.position}${trip ? `?trip=${trip}` : ''}`}>
              {u.position}
            </Link>
            <span className="pl-2 text-sm">{u.since ? `last ${ago(u.since)}` : 'never yet'}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}
