import { useState } from 'react'
import { Link } from 'react-router'
import { dayTime, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useSiteChangesQuery, useSiteQuery } from '../../store/api.ts'

/** Who signed in, and who changed what of the whole site, newest first. */
export function ChangesPage() {
  const [before, setBefore] = useState<number | null>(null)
  const { data: changes, error, refetch } = useSiteChangesQuery(before, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!changes || !site) return <Fetching what="the changes" error={error} onRetry={refetch} />
  const last = changes.at(-1)
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <h1 className="text-2xl">Who did what</h1>
      <p className="max-w-prose pt-1 pb-4 soft">
        Everything that was changed of the site, and who signed in. What happened in visits stands in the Ledger.
      </p>
      {changes.length === 0 && <p>Nothing further.</p>}
      <ul>
        {changes.map((c) => (
          <li
            key={c.id}
            className="grid gap-x-5 border-b border-base-300 py-2 sm:grid-cols-[10rem_11rem_1fr_9rem] sm:items-baseline"
          >
            <span className="font-mono text-sm whitespace-nowrap soft">{dayTime(c.at, site.timeZone)}</span>
            <Link
              to={`/rig/${c.subject}/${c.subjectId}`}
              className="truncate font-bold underline-offset-4 hover:underline"
            >
              {c.title}
            </Link>
            <span className="text-pretty">
              {text(c.what)}
              {c.why && <span className="soft"> “{c.why}”</span>}
            </span>
            <span className="soft">{c.operator}</span>
          </li>
        ))}
      </ul>
      <div className="flex gap-4 pt-5">
        {before !== null && (
          <button type="button" className="slant slant-plain" onClick={() => setBefore(null)}>
            Newest
          </button>
        )}
        {changes.length === 200 && last && (
          <button type="button" className="slant" onClick={() => setBefore(last.id)}>
            Older
          </button>
        )}
      </div>
    </div>
  )
}
