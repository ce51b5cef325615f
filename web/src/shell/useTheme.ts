import { useSyncExternalStore } from 'react'
import { useAppSelector } from '../store/store.ts'

const dark = window.matchMedia('(prefers-color-scheme: dark)')

function subscribe(listener: () => void): () => void {
  dark.addEventListener('change', listener)
  return () => dark.removeEventListener('change', listener)
}

/** The theme shown now, and the one that a tap would switch to. */
export function useTheme(): { shown: 'chalk' | 'lamp'; other: 'chalk' | 'lamp' } {
  const choice = useAppSelector((s) => s.person.theme)
  const system = useSyncExternalStore(subscribe, () => dark.matches) ? 'lamp' : 'chalk'
  const shown = choice === 'system' ? system : choice
  return { shown, other: shown === 'lamp' ? 'chalk' : 'lamp' }
}
