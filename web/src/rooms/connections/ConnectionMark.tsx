import type { ConnectionState } from '@frustum/contract'

const WORDS: Record<ConnectionState, string> = {
  up: 'Connected',
  down: 'No answer',
  waiting: 'Connecting',
}

/** Of devices that send by themselves. */
const HEARD: Record<ConnectionState, string> = { up: 'Receiving', down: 'No data', waiting: 'Waiting for data' }

/** The state of a connection. */
export function ConnectionMark({ state, polled }: { state: ConnectionState | null; polled: boolean }) {
  if (state === null) return <span className="soft">not used</span>
  const words = polled ? WORDS : HEARD
  return (
    <span className={`font-bold ${state === 'up' ? 'text-success' : state === 'down' ? 'text-error' : 'soft'}`}>
      {words[state]}
    </span>
  )
}
