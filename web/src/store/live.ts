import type { LiveValue, VisitLive } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { useEffect, useRef, useState } from 'react'

/** Listens to a stream of server-sent events while mounted; says whether it is connected. */
function useStream<T>(url: string | null, onMessage: (message: T) => void): boolean {
  const [connected, setConnected] = useState(true)
  const handler = useRef(onMessage)
  handler.current = onMessage
  useEffect(() => {
    if (!url) return
    let source: EventSource | null = null
    let again: ReturnType<typeof setTimeout> | undefined
    const open = () => {
      source = new EventSource(url)
      source.onopen = () => setConnected(true)
      source.onmessage = (event) => handler.current(JSON.parse(event.data as string) as T)
      source.onerror = () => {
        setConnected(false)
        // The browser tries again by itself, unless the server answered with an error.
        if (source?.readyState === EventSource.CLOSED) again = setTimeout(open, 1500)
      }
    }
    open()
    return () => {
      clearTimeout(again)
      source?.close()
    }
  }, [url])
  return connected
}

/** The live values of all linked sensors, by position. */
export function useLiveValues(): { values: Record<string, LiveValue>; connected: boolean } {
  const [values, setValues] = useState<Record<string, LiveValue>>({})
  const connected = useStream<LiveValue[]>(addressOf(ENDPOINTS.live, {}), (list) =>
    // The first message holds all of them, the later ones what has changed.
    setValues((before) => ({ ...before, ...Object.fromEntries(list.map((v) => [v.position, v])) })),
  )
  return { values, connected }
}

/** The live side of a visit, with its whole trace put together again. */
export function useVisitLive(id: string | null): {
  live: VisitLive | null
  trace: [number, number][]
  connected: boolean
} {
  const [state, setState] = useState<{ live: VisitLive; trace: [number, number][] } | null>(null)
  const connected = useStream<VisitLive>(id ? addressOf(ENDPOINTS.visitLive, { id }) : null, (live) =>
    setState((before) => ({ live, trace: live.fresh || !before ? live.trace : joined(before.trace, live.trace) })),
  )
  return { live: state?.live ?? null, trace: state?.trace ?? [], connected }
}

/** An unanswered poll repeats the last point; it must not be drawn twice. */
function joined(before: [number, number][], more: [number, number][]): [number, number][] {
  const last = before.at(-1)
  const fresh = more.filter(([t]) => !last || t > last[0])
  return fresh.length > 0 ? [...before, ...fresh].slice(-1500) : before
}
