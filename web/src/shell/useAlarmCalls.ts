import type { AlarmView } from '@frustum/contract'
import { useEffect, useRef } from 'react'
import { text } from '../components/format.ts'
import { play } from '../components/useChime.ts'
import { useAppSelector } from '../store/store.ts'

/** Falling, so that it is told from the chime of what is stable. */
const TONES = [880, 660, 880, 660]

/** Calls by sound and by the browser's notification, as this browser was told to, once for each alarm that is raised. */
export function useAlarmCalls(alarms: readonly AlarmView[] | undefined): void {
  const { sound, notification } = useAppSelector((s) => s.person.calls)
  const known = useRef<ReadonlySet<number> | null>(null)
  useEffect(() => {
    if (!alarms) return
    const before = known.current
    known.current = new Set(alarms.map((a) => a.id))
    // Those that were there when the page came are on the page.
    if (!before) return
    const fresh = alarms.filter((a) => !before.has(a.id) && a.returnedAt === null && a.shelved === null)
    const [first] = fresh
    if (!first) return
    if (sound) play(TONES)
    if (notification && 'Notification' in window && Notification.permission === 'granted') {
      const more = fresh.length > 1 ? ` And ${fresh.length - 1} more.` : ''
      new Notification(first.position ? `${first.position}, ${first.place}` : 'The site', {
        body: `${text(first.sentence)}.${more}`,
        tag: `frustum-${first.id}`,
      })
    }
  }, [alarms, sound, notification])
}
