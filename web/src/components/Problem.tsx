import { TriangleAlert } from 'lucide-react'
import { problemOf } from '../store/request.ts'

/** What happened, what is safe, what to do. */
function Problem({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  const { message, detail, hint } = problemOf(error)
  return (
    <div role="alert" className="flex max-w-2xl gap-4 border-l-4 border-error bg-base-200 p-5">
      <TriangleAlert className="mt-1 size-6 shrink-0 text-error" aria-hidden="true" />
      <div className="space-y-1">
        <p className="font-bold">{message}</p>
        {detail && <p>{detail}</p>}
        {hint && <p className="soft">{hint}</p>}
        {onRetry && (
          <button type="button" className="slant mt-3" onClick={onRetry}>
            Try again
          </button>
        )}
      </div>
    </div>
  )
}

/** While something is fetched: plain lines where the rows will be. */
export function Waiting({ what }: { what: string }) {
  return (
    <div role="status" className="space-y-4 py-4">
      <span className="soft">Fetching {what} ...</span>
      {[0, 1, 2, 3].map((i) => (
        <div key={i} className="h-14 bg-base-200" style={{ opacity: 1 - i * 0.22 }} />
      ))}
    </div>
  )
}

/** In place of a room whose data are not there: the problem if there is one, else the waiting. */
export function Fetching({ what, error, onRetry }: { what: string; error: unknown; onRetry: () => unknown }) {
  return (
    <div className="p-6">
      {error ? <Problem error={error} onRetry={() => void onRetry()} /> : <Waiting what={what} />}
    </div>
  )
}
