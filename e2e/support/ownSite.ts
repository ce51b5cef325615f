import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import {
  type BringLogOptions,
  type BringLogView,
  type BringPastOptions,
  type BringPastView,
  type Clock,
  LOG_AS_IT_LOOKS,
  type ProblemView,
} from '@frustum/contract'
import { readConfig, startServer } from '@frustum/server'
import { expect, onTestFinished } from 'vitest'
import { freePort } from './freePort.ts'

export const operator = 'A. Fenn'
const JSON_TYPE = { 'content-type': 'application/json' }

/** A site with a list of sensors in use, in a folder of its own, at a time that the test sets. */
export async function ownSite(
  list: string,
  { folder = newFolder(), at = Date.UTC(2026, 0, 15), adjustsBy = 'key' } = {},
) {
  const clock = { now: () => at, rate: 1, set: (to: number) => (at = to) } satisfies Clock & { set: unknown }
  const open = async () =>
    startServer(readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null), { clock, graceMs: 0 })
  let server = await open()
  onTestFinished(() => server.stop())
  const ask = async <T>(path: string, body?: object): Promise<{ status: number; body: T & ProblemView }> => {
    const response = await fetch(`${server.url}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: JSON_TYPE,
    })
    return { status: response.status, body: (await response.json()) as T & ProblemView }
  }
  const send = async <T>(what: string, file: string | Uint8Array<ArrayBuffer>, options: object, name = 'log.csv') => {
    const query = new URLSearchParams({ name, operator, options: JSON.stringify(options) })
    const response = await fetch(`${server.url}/api/bring/${what}?${query}`, { method: 'POST', body: file })
    return { status: response.status, body: (await response.json()) as T & ProblemView }
  }
  if (list !== '') {
    await ask('site/set-up', { name: 'Mill', person: operator, timeZone: 'Europe/Berlin' })
    expect((await send('sensors', list, { take: true, adjustsBy })).status).toBe(200)
  }
  return {
    clock,
    folder,
    ask,
    get: async <T>(path: string) => (await ask<T>(path)).body as T,
    bring: (file: string | Uint8Array<ArrayBuffer>, options: Partial<BringPastOptions> = {}, name?: string) =>
      send<BringPastView>('past', file, options, name),
    /** A logger's file, with its columns as they look. */
    log: (file: string | Uint8Array<ArrayBuffer>, options: Partial<BringLogOptions> = {}, name?: string) =>
      send<BringLogView>('log', file, { ...LOG_AS_IT_LOOKS, take: true, ...options }, name),
    /** @param meanwhile done while it is away */
    async restart(meanwhile = () => {}) {
      await server.stop()
      meanwhile()
      server = await open()
    },
    stop: () => server.stop(),
    /** Whether it asks to be started again. */
    asksRestart: () => server.restart,
    url: () => server.url,
  }
}

export function newFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-own-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}
