import type { VisitView } from '@frustum/contract'
import { Link } from 'react-router'
import { day, daysUntil, fixed, plural, sentence, signed } from '../../parts/format.ts'
import { DECISION_WORDS } from './stepTexts.ts'

/** The visit is over: what came of it, and when to come back. */
export function DonePanel({ visit, timeZone }: { visit: VisitView; timeZone: string }) {
  const { next, result, asLeftError } = visit
  if (visit.outcome === 'abandoned') {
    return (
      <div className="space-y-4">
        <h1 className="text-3xl">Ended without a result</h1>
        <p>The points taken are kept in the record; slope, zero and the next date stay as they were.</p>
        <Link to="/" className="slant slant-strong">
          Back to Rounds
        </Link>
      </div>
    )
  }
  const decision = visit.decision?.decision ?? 'leave-alone'
  return (
    <div className="max-w-2xl space-y-5">
      <h1 className="text-3xl">Done</h1>
      {next && (
        <p className="text-2xl text-pretty">
          Next check <strong>{day(next.at, timeZone)}</strong>, in {plural(Math.max(0, daysUntil(next.at)), 'day')}.{' '}
          {sentence(next.reason)}
        </p>
      )}
      <dl className="grid grid-cols-[auto_1fr] gap-x-8 gap-y-2 border-y border-base-300 py-4">
        <dt className="soft">Decided</dt>
        <dd>{DECISION_WORDS[decision]}</dd>
        {result?.asFoundError != null && (
          <>
            <dt className="soft">As found</dt>
            <dd>{signed(result.asFoundError, 2)} pH at the process value</dd>
          </>
        )}
        {visit.applied && (
          <>
            <dt className="soft">Device now</dt>
            <dd>
              slope {fixed(100 * visit.applied.slopeEfficiency, 1)} %, zero {fixed(visit.applied.zero, 1)} mV
            </dd>
          </>
        )}
        {asLeftError !== null && (
          <>
            <dt className="soft">As left</dt>
            <dd>{signed(asLeftError, 2)} pH</dd>
          </>
        )}
      </dl>
      <div className="flex flex-wrap gap-4">
        <Link to="/" className="slant slant-strong">
          Back to Rounds
        </Link>
        <Link to={`/probes/${visit.position}`} className="slant">
          See it in the trend
        </Link>
      </div>
    </div>
  )
}
