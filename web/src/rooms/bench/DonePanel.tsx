import type { VisitView } from '@frustum/contract'
import { DECISION_WORDS } from '@frustum/core'
import { Link } from 'react-router'
import { day, daysUntil, plural, text } from '../../components/format.ts'

/** The visit is over: what came of it, and when to come back. */
export function DonePanel({ visit, timeZone }: { visit: VisitView; timeZone: string }) {
  const { summary } = visit
  const retired = visit.procedure === 'retire'
  const pressed = visit.steps.some((s) => s.key.startsWith('key-') && s.status === 'done')
  const calibratedItself = pressed && visit.decided?.decision === 'leave-alone'
  if (visit.outcome === 'abandoned') {
    return (
      <div className="space-y-4">
        <h1 className="text-3xl">Ended without a result</h1>
        <p>The readings taken are kept in the record; the calibration and the next date stay as they were.</p>
        <Onward visit={visit} />
      </div>
    )
  }
  return (
    <div className="max-w-2xl space-y-5">
      <h1 className="text-3xl">{retired ? 'Retired' : 'Done'}</h1>
      {retired && <p className="text-xl">Its record stays in the Ledger. The position waits for the next one.</p>}
      {summary?.next && (
        <p className="text-2xl text-pretty">
          Next check <strong>{day(summary.next.at, timeZone)}</strong>, in{' '}
          {plural(Math.max(0, daysUntil(summary.next.at)), 'day')}. {text(summary.next.reason)}
        </p>
      )}
      <dl className="grid grid-cols-[auto_1fr] gap-x-8 gap-y-2 border-y border-base-300 py-4">
        {visit.decided && (
          <>
            <dt className="soft">Decided</dt>
            <dd>{calibratedItself ? 'Calibrated by its own key, kept so' : DECISION_WORDS[visit.decided.decision]}</dd>
          </>
        )}
        {summary?.asFound && (
          <>
            <dt className="soft">As found</dt>
            <dd>{text(summary.asFound)} at the process value</dd>
          </>
        )}
        {visit.applied && (
          <>
            <dt className="soft">Device now</dt>
            <dd>
              {text(visit.applied.parameters) || 'Unknown'}
              {calibratedItself && !visit.linked && visit.applied.parameters !== '' && (
                <span className="soft"> (worked out from what it showed)</span>
              )}
            </dd>
          </>
        )}
        {(summary?.asLeft || visit.applied) && (
          <>
            <dt className="soft">As left</dt>
            <dd>{summary?.asLeft ? text(summary.asLeft) : 'Not verified: nothing was read after the change.'}</dd>
          </>
        )}
      </dl>
      <Onward visit={visit} />
    </div>
  )
}

function Onward({ visit }: { visit: VisitView }) {
  return (
    <div className="flex flex-wrap gap-4">
      {visit.trip ? (
        <Link to={`/trips/${visit.trip}`} className="slant slant-strong">
          On with the trip
        </Link>
      ) : (
        <Link to="/" className="slant slant-strong">
          Back to Rounds
        </Link>
      )}
      {visit.procedure !== 'retire' && (
        <Link to={`/probes/${visit.position}`} className="slant">
          See it in the trend
        </Link>
      )}
      <Link to={`/ledger/${visit.id}`} className="slant slant-plain">
        The record
      </Link>
    </div>
  )
}
