import { useRef } from 'react'

/** Older than this nobody goes on with what was typed, ms. */
const KEPT_FOR = 7 * 86_400_000

interface Draft {
  at: number
  values: Record<string, string | boolean>
}

/**
 * What was typed and not sent yet, kept in this browser until it is: through a reload, and through a browser that was
 * closed.
 * @param keptFor ms
 */
export function useDraft(name: string, keptFor = KEPT_FOR) {
  const key = `frustum-draft:${name}`
  const read = (): Draft['values'] => {
    try {
      const draft = JSON.parse(localStorage.getItem(key) ?? '{}') as Partial<Draft>
      return draft.values && Date.now() - (draft.at ?? 0) < keptFor ? draft.values : {}
    } catch {
      return {}
    }
  }
  const keep = (values: Record<string, unknown>) => {
    try {
      localStorage.setItem(key, JSON.stringify({ at: Date.now(), values }))
    } catch {
      // Without storage the fields live as long as the page.
    }
  }
  const clear = () => localStorage.removeItem(key)
  return { read, keep, clear }
}

/** The newest value of something, for functions that wait before they look. */
export function useLatest<T>(value: T) {
  const latest = useRef(value)
  latest.current = value
  return latest
}
