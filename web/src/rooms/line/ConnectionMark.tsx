import { type ConnectionState, isModbus, type Protocol } from '@frustum/contract'

const WORDS: Record<ConnectionState, string> = {
  up: 'answers',
  down: 'does not answer',
  waiting: 'not asked yet',
}

/** Of what is not asked, but speaks by itself. */
const HEARD: Record<ConnectionState, string> = { up: 'heard', down: 'not heard', waiting: 'not heard yet' }

/** How a connection is, in a word. */
export function ConnectionMark({ state, protocol }: { state: ConnectionState | null; protocol: Protocol }) {
  if (state === null) return <span className="soft">reads nothing</span>
  const words = isModbus(protocol) || protocol === 'http' ? WORDS : HEARD
  return (
    <span className={`font-bold ${state === 'up' ? 'text-success' : state === 'down' ? 'text-error' : 'soft'}`}>
      {words[state]}
    </span>
  )
}
