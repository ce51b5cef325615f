import { isRouteErrorResponse, Link, useRouteError } from 'react-router'

/** A wrong address, or a screen that failed: nothing recorded is touched by either. */
export function Lost() {
  const error = useRouteError()
  const missing = !error || (isRouteErrorResponse(error) && error.status === 404)
  return (
    <div className="space-y-3 p-8">
      <h1 className="text-2xl">{missing ? 'There is no such page.' : 'This screen failed.'}</h1>
      <p>
        {missing
          ? 'The address may be old or mistyped.'
          : 'What was captured is safe on the server. Load the page again, or go back to Rounds.'}
      </p>
      <Link to="/" className="slant slant-strong">
        Rounds
      </Link>
    </div>
  )
}
