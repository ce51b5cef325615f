import { useRef } from 'react'

/** What was typed and not sent yet, kept in this browser until it is. */
export function useDraft(name: string) {
  const key = `frustum-draft:${name}`
  const read = (): Record<string, string | boolean> => {
    try {
      return JSON.parse(sessionStorage.getItem(key) ?? '{}') as Record<string, string | boolean>
    } catch {
      return {}
    }
  }
  const keep = (values: Record<string, unknown>) => {
    try {
      sessionStorage.setItem(key, JSON.stringify(values))
    } catch {
      // Without storage the fields live as long as the page.
    }
  }
  const clear = () => sessionStorage.removeItem(key)
  return { read, keep, clear }
}

/** The newest value of something, for functions that wait before they look. */
export function useLatest<T>(value: T) {
  const latest = useRef(value)
  latest.current = value
  return latest
}
