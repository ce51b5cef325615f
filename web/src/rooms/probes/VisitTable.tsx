import type { ProbeView, VisitSummary } from '@frustum/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { day, fixed, signed } from '../../components/format.ts'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { useExcludeMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

const SHOWN = 20
const USUAL_REASONS = ['Wrong beaker or standard', 'Not settled', 'Another sensor was read', 'Upset under way']

/** The visits of a probe; one that misleads is taken out of the forecast by hand, with a reason, and stays in sight. */
export function VisitTable({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const [asked, setAsked] = useState<VisitSummary | null>(null)
  const { operator } = useAppSelector(actorOf)
  const [exclude] = useExcludeMutation()
  const aside = new Map(probe.setAside.map((s) => [s.id, s]))
  const change = async (id: string, excluded: boolean, reason: string) => {
    const { error } = await exclude({ id, operator, excluded, reason })
    if (error) toast.error(problemOf(error).message)
    setAsked(null)
  }
  const { decimals } = probe.errorScale
  const { control } = probe.health
  const shown = probe.visits.slice(0, SHOWN)
  return (
    <section>
      <h2 className="pb-2 text-base">
        Visits{' '}
        <span className="font-normal soft">
          ({probe.visits.length}, errors in {probe.errorScale.unit}
          {control &&
            `; as found it has kept between ${signed(control.low, decimals)} and ${signed(control.high, decimals)}`}
          )
        </span>
      </h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
      <section className="overflow-x-auto" aria-label="Visits" tabIndex={0}>
        <table className="w-full min-w-160 text-left">
          <thead className="soft">
            <tr className="border-b border-base-300">
              {['Date', 'What', 'As found', 'Fouling', 'As left', 'Done', 'In the forecast'].map((h) => (
                <th key={h} scope="col" className="py-2 pr-3 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((v) => {
              const out = aside.get(v.id)
              const beyond = v.asFound !== null && Math.abs(v.asFound) > probe.figure.policy.tolerance
              const unusual = v.asFound !== null && control && (v.asFound < control.low || v.asFound > control.high)
              return (
                <tr key={v.id} className={`border-b border-base-300 ${out ? 'soft line-through decoration-1' : ''}`}>
                  <td className="py-2 pr-3 whitespace-nowrap">
                    <Link to={`/ledger/${v.id}`} className="underline underline-offset-4">
                      {day(v.at, timeZone)}
                    </Link>
                  </td>
                  <td className="pr-3">{v.name.toLowerCase()}</td>
                  <td className="pr-3 font-mono whitespace-nowrap">
                    {v.asFound === null ? '–' : signed(v.asFound, decimals)}
                    {unusual && <span className="pl-1 font-sans text-sm text-warning">unusual</span>}
                    {beyond && (
                      <Link
                        to={`/probes/${probe.position}/past/${v.id}`}
                        className="pl-2 font-sans text-sm underline underline-offset-4"
                      >
                        correct past
                      </Link>
                    )}
                  </td>
                  <td className="pr-3 font-mono">{v.fouling === null ? '–' : signed(v.fouling, decimals)}</td>
                  <td className="pr-3 font-mono whitespace-nowrap">
                    {v.verified ? (
                      <>
                        {signed(v.asLeft, decimals)} <span className="soft">± {fixed(v.uncertainty, decimals)}</span>
                      </>
                    ) : (
                      <span className="font-sans text-sm soft">not verified</span>
                    )}
                  </td>
                  <td className="pr-3 whitespace-nowrap">
                    {v.work ?? '–'}
                    <span className="block text-sm soft">{v.operator}</span>
                  </td>
                  <td className="whitespace-nowrap no-underline">
                    {out && out.why !== 'excluded' ? (
                      out.why
                    ) : (
                      <For needs="operator">
                        <button
                          type="button"
                          className="min-h-11 underline underline-offset-4"
                          aria-label={`${out ? 'Count' : 'Exclude'} the visit of ${day(v.at, timeZone)}`}
                          onClick={() => (out ? void change(v.id, false, 'Counted again') : setAsked(v))}
                        >
                          {out ? 'count it again' : 'exclude'}
                        </button>
                      </For>
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </section>
      {probe.visits.length > shown.length && <p className="pt-2 soft">The newest {shown.length} are shown.</p>}
      {probe.setAside.length > 0 && (
        <ul className="pt-3 text-sm" aria-label="Not in the forecast">
          {probe.setAside.map((s) => (
            <li key={s.id}>
              <strong>{day(s.at, timeZone)}</strong> does not count. {s.sentence}
            </li>
          ))}
        </ul>
      )}
      {asked && (
        <ReasonDialog
          title={`Take the visit of ${day(asked.at, timeZone)} out of the forecast?`}
          usual={USUAL_REASONS}
          confirm="Exclude visit"
          explain="It stays in the record and in this table, struck out with your reason; the forecast is computed without it."
          onClose={() => setAsked(null)}
          onConfirm={(reason) => void change(asked.id, true, reason)}
        />
      )}
    </section>
  )
}
