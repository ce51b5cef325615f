import { wrap } from 'comlink'
import { useEffect, useState } from 'react'
import type { TrendLine, TrendWorker } from '../../workers/trend.worker.ts'

let worker: ReturnType<typeof wrap<TrendWorker>> | null = null

function trendWorker() {
  worker ??= wrap<TrendWorker>(
    new Worker(new URL('../../workers/trend.worker.ts', import.meta.url), { type: 'module' }),
  )
  return worker
}

/** The robust trend through a series, computed in a worker; null until it is there or when it cannot be said. */
export function useTrend(points: { at: number; value: number }[]): TrendLine | null {
  const [line, setLine] = useState<TrendLine | null>(null)
  const key = JSON.stringify(points)
  useEffect(() => {
    let wanted = true
    void trendWorker()
      .trend(JSON.parse(key) as typeof points)
      .then((found) => {
        if (wanted) setLine(found)
      })
    return () => {
      wanted = false
    }
  }, [key])
  return line
}
