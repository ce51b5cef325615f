import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fleet, processAt, truthAt } from '@frustum/demo'
import { startStandIns } from '../../standins/src/modbusStandIns.ts'
import { readConfig, startServer } from './index.ts'

export interface TestServer {
  url: string
  /** Where its data are. */
  folder: string
  /** Asks an address, or sends it something: text as it is, anything else as JSON. */
  ask<T>(
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; headers: Headers; body: T }>
  stop(): Promise<void>
}

/** The demo with its stand-ins in a folder of its own, for the tests of one file. */
export async function startTestServer(): Promise<TestServer> {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-test-'))
  const standIns = await startStandIns({ fleet: fleet(), truthAt, processAt, port: 0 })
  const env = { FRUSTUM_DATA: folder, FRUSTUM_DEMO: '1', STANDIN_PORT: String(standIns.port) }
  const server = await startServer(readConfig(env, null))
  return {
    url: server.url,
    folder,
    async ask<T>(path: string, body?: unknown, headers: Record<string, string> = {}) {
      const response = await fetch(server.url + path, {
        ...(body === undefined ? {} : { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body) }),
        headers: { 'content-type': 'application/json', ...headers },
      })
      return { status: response.status, headers: response.headers, body: (await response.json()) as T }
    },
    async stop() {
      await server.stop()
      await standIns.close()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
