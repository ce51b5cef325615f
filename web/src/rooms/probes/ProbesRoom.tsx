import { Link } from 'react-router'
import { day, fixed } from '../../parts/format.ts'
import { Fetching } from '../../parts/Problem.tsx'
import { SmallFrustum } from '../../parts/SmallFrustum.tsx'
import { StateMark } from '../../parts/StateMark.tsx'
import { useRoundsQuery, useSiteQuery } from '../../store/api.ts'

/** All sensors by their position, each the way to its page. */
export function ProbesRoom() {
  const { data, error, refetch } = useRoundsQuery()
  const { data: site } = useSiteQuery()
  if (!data || !site) return <Fetching what="the probes" error={error} onRetry={refetch} />
  const { rows } = data
  const places = [...new Set(rows.map((r) => r.place))]
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-5">
      <h1 className="pb-2 text-2xl">Probes</h1>
      {places.map((place) => (
        <section key={place}>
          <h2 className="border-b border-base-300 pt-5 pb-2 text-base soft">{place}</h2>
          <ul>
            {rows
              .filter((r) => r.place === place)
              .toSorted((a, b) => a.position.localeCompare(b.position))
              .map((r) => (
                <li key={r.position} className="border-b border-base-300">
                  <Link
                    to={`/probes/${r.position}`}
                    className="grid grid-cols-2 items-center gap-3 py-2 hover:bg-base-200 md:grid-cols-[9rem_1fr_7rem_9rem_9rem]"
                  >
                    <span className="font-bold">{r.position}</span>
                    <span className="soft">
                      {r.quantity} · {r.spot}
                    </span>
                    <StateMark state={r.state} />
                    <SmallFrustum figure={r.figure} />
                    <span className="soft">
                      next {day(r.figure.next.at, site.timeZone)}
                      <br />
                      limit ± {fixed(r.figure.policy.tolerance, r.figure.policy.decimals ?? 2)} {r.figure.policy.unit}
                    </span>
                  </Link>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  )
}
