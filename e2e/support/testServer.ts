import { openStation, type Station, type StationOptions } from './station.ts'

export interface TestServer extends Station {
  /** Asks an address, or sends it something: text as it is, anything else as JSON. */
  ask<T>(
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; headers: Headers; body: T }>
}

/** A station without pages in a folder of its own, for the tests of one file. */
export async function startTestServer(options: StationOptions = {}): Promise<TestServer> {
  const station = await openStation(options)
  return {
    ...station,
    async ask<T>(path: string, body?: unknown, headers: Record<string, string> = {}) {
      const response = await fetch(station.url + path, {
        ...(body === undefined ? {} : { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body) }),
        headers: { 'content-type': 'application/json', ...headers },
      })
      return { status: response.status, headers: response.headers, body: (await response.json()) as T }
    },
  }
}
