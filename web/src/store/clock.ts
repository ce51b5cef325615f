import { acceleratedClock, type Clock, systemClock } from '@frustum/contract/clock'
import { useEffect, useState } from 'react'

let clock: Clock = systemClock
let ahead = 0

/** Follows the server's clock: records are stamped with it, and a tablet's own may be minutes off. */
export function followClock(server: { now: number; rate: number }): void {
  const own = Date.now()
  ahead = server.now - own
  clock = server.rate === 1 ? systemClock : acceleratedClock(server.rate, own)
}

let zone = 'UTC'

/** The site's time zone: what sentences say of instants is said in it. */
export const zoneOfSite = (): string => zone
export function followZone(timeZone: string): void {
  zone = timeZone
}

/** The server's time now, epoch ms. */
export const now = (): number => clock.now() + ahead

/** The server's time, renewed every so many of its milliseconds. */
export function useNow(everyMs: number): number {
  const [shown, setShown] = useState(now)
  useEffect(() => {
    const timer = setInterval(() => setShown(now()), everyMs / clock.rate)
    return () => clearInterval(timer)
  }, [everyMs])
  return shown
}
