import type { ConnectionState } from '@frustum/contract'

const WORDS: Record<ConnectionState, string> = {
  up: 'answers',
  down: 'does not answer',
  waiting: 'not asked yet',
}

/** How a connection is, in a word. */
export function ConnectionMark({ state }: { state: ConnectionState | null }) {
  if (state === null) return <span className="soft">reads nothing</span>
  return (
    <span className={`font-bold ${state === 'up' ? 'text-success' : state === 'down' ? 'text-error' : 'soft'}`}>
      {WORDS[state]}
    </span>
  )
}
