import { createServer } from 'node:http'
import type { ConnectionPageView, IngestView, LineView, Mapping, RigView, TriedView } from '@frustum/contract'
import fc from 'fast-check'
import { expect, it, onTestFinished } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'

const MINUTE = 60_000
const TOKEN = 'kQ3x9mZ7pL1vT5rN8wB2yC4d'
const field = (name: string) => ({ at: { field: name }, unit: '', scale: 1, offset: 0 })
const MAPPING: Mapping = { countsFrom: 0, format: 'senml', value: field('ph'), temperature: field('temp') }
const LINE = { operator, protocol: 'push', mapping: MAPPING }

interface Everything {
  tables: { readings: { at: string; shown: number; temperature: number; installation_id: number }[] }
}

async function loggedSite() {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater')
  const send = async (body: unknown, token = TOKEN) => {
    const text = typeof body === 'string' ? body : JSON.stringify(body)
    // No type that anybody agreed on: loggers send what they like.
    const answer = await fetch(`${site.url()}/api/ingest/${token}`, { method: 'POST', body: text })
    return { status: answer.status, body: (await answer.json()) as IngestView & { code: string; message: string } }
  }
  // The sensor is in since its list was brought in.
  site.clock.set(site.clock.now() + 100 * 60 * MINUTE)
  await site.ask('lines/1/token', { operator, token: TOKEN })
  const kept = async () => {
    const { tables } = await site.get<Everything>('backup/everything.json')
    return tables.readings.map(({ at, shown }) => [Date.parse(at), shown] as const).sort(([a], [b]) => a - b)
  }
  const live = async () => (await site.get<RigView>('rig')).positions[0]?.live
  return { site, send, kept, live }
}

const pack = (all: readonly (readonly [at: number, ph: number])[]) =>
  all.flatMap(([at, ph]) => [
    { n: 'ph', t: at / 1000, v: ph },
    { n: 'temp', t: at / 1000, v: 24.5 },
  ])

it('what a logger sends is that device’s, from the token to the reading', async () => {
  const { site, send, kept, live } = await loggedSite()
  const now = site.clock.now()
  expect(await send(pack([[now, 8.1]]), 'anotherTokenOfTheSameLength')).toMatchObject({ status: 404 })
  // One token is one device's.
  expect((await site.ask('lines/2/token', { operator, token: TOKEN })).status).toBe(400)
  // Nothing of it is mapped yet: it is not taken, and is there to be looked at.
  expect(await send(pack([[now, 8.1]]))).toMatchObject({ status: 409, body: { code: 'not-mapped' } })
  const tried = await site.ask<TriedView>('lines/1/try', LINE)
  expect(tried.body).toMatchObject({ why: null, reading: { shown: 8.1, temperature: 24.5 } })
  const { body: line } = await site.ask<LineView>('lines/1', LINE)
  expect(line).toMatchObject({ address: {}, token: { madeBy: operator } })
  expect(JSON.stringify(line)).not.toContain(TOKEN)

  expect(
    await send(
      pack([
        [now - MINUTE, 8.1],
        [now, 8.2],
      ]),
    ),
  ).toEqual({
    status: 200,
    body: { kept: 2, known: 0, refused: [] },
  })
  expect(await live()).toMatchObject({ shown: 8.2, temperature: 24.5, at: now, blindSince: null })
  expect((await send(pack([[now, 8.2]]))).body).toEqual({ kept: 0, known: 1, refused: [] })
  expect(await send('[{"n":"ph","v":"much"}]')).toMatchObject({ status: 400, body: { code: 'unreadable' } })
  const message = 'A message can be at most 1,024 KB.'
  expect(await send(`[${'1'.repeat(1_100_000)}]`)).toMatchObject({ status: 413, body: { code: 'too-large', message } })
  expect((await live())?.why).toContain('no number')

  // A clock that is a year off is said, and nothing of it is kept as of now.
  const year = 365 * 24 * 60 * MINUTE
  expect(await send(pack([[now + year, 8.3]]))).toMatchObject({ status: 400 })
  expect(await send(pack([[now - 2 * year, 7.9]]))).toMatchObject({
    status: 200,
    body: { kept: 0, known: 0, refused: ['T1-pH: no sensor was installed at that time. Check the device’s clock.'] },
  })
  expect((await live())?.why).toContain('its clock is behind')
  expect((await live())?.shown).toBe(8.2)
  expect(await kept()).toEqual([
    [now - MINUTE, 8.1],
    [now, 8.2],
  ])

  await site.restart()
  expect((await send(pack([[now + 1000, 8.4]]))).status).toBe(200)
  await site.ask('lines/1/token', { operator, token: `${TOKEN}-new` })
  expect((await send(pack([[now, 8.4]]))).status).toBe(404)
  expect((await send(pack([[now, 8.4]]), `${TOKEN}-new`)).status).toBe(200)
  const page = await site.get<ConnectionPageView>('connections/1')
  expect(page).toMatchObject({ protocol: 'push', state: 'up' })
  expect(JSON.stringify(page)).not.toContain(TOKEN)
  const everything = await (await fetch(`${site.url()}/api/backup/everything.json`)).text()
  expect(everything).not.toContain('ingest_tokens')
})

it('a backlog from before the sensor was entered is its own, and PUT is as good as POST', async () => {
  const { site, kept } = await loggedSite()
  await site.ask('lines/1', LINE)
  const entered = site.clock.now() - 100 * 60 * MINUTE
  const backlog = pack([30, 2, 1].map((days) => [entered - days * 24 * 60 * MINUTE, 8] as const))
  const answer = await fetch(`${site.url()}/api/ingest/${TOKEN}`, { method: 'PUT', body: JSON.stringify(backlog) })
  expect([answer.status, await answer.json()]).toEqual([200, { kept: 3, known: 0, refused: [] }])
  expect((await kept()).map(([at]) => (entered - at) / (24 * 60 * MINUTE))).toEqual([30, 2, 1])
})

it('readings that come late, twice and in any order end as those that came in order', async () => {
  const { site, send, kept } = await loggedSite()
  await site.ask('lines/1', LINE)
  const now = site.clock.now()
  let hour = 0
  await fc.assert(
    fc.asyncProperty(
      fc.uniqueArray(fc.integer({ min: 0, max: 59 * 60 }), { minLength: 1, maxLength: 25 }),
      fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })),
      async (seconds, chance) => {
        const from = now - 99 * 60 * MINUTE + hour++ * 60 * MINUTE
        // Rising with time, so that each tells when it was read.
        const all = seconds.map((s) => [from + 1000 * s, 7 + s / 10_000] as const)
        const inAnyOrder = [...all, ...all.slice(0, 8)].sort(() => chance.next().value - 0.5)
        while (inAnyOrder.length > 0) {
          const some = inAnyOrder.splice(0, 1 + Math.floor(chance.next().value * 9))
          expect((await send(pack(some))).status).toBe(200)
        }
        const firstOfEach = new Map<number, readonly [number, number]>()
        for (const one of [...all].sort(([a], [b]) => b - a)) firstOfEach.set(Math.floor(one[0] / 10_000), one)
        const there = (await kept()).filter(([at]) => at >= from && at < from + 60 * MINUTE)
        expect(there).toEqual([...firstOfEach.values()].sort(([a], [b]) => a - b))
      },
    ),
    { numRuns: process.env.FRUSTUM_SOAK ? 60 : 6 },
  )
})

it('a password opens its page, and is answered, exported and listed nowhere', async () => {
  const secret = 'hush-7d1f'
  const asked: (string | undefined)[] = []
  const server = createServer((req, res) => {
    asked.push(req.headers.authorization)
    res.end('{"ph":8.15}')
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  onTestFinished(() => {
    server.closeAllConnections()
    server.close()
  })
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater')
  const url = `http://127.0.0.1:${(server.address() as { port: number }).port}/`
  const settings = { url, auth: 'basic', user: 'op', everyMs: 500 }
  const mapping = { countsFrom: 0, format: 'json', value: field('/ph') }
  const said: string[] = []
  const note = <T>(answer: T) => {
    said.push(JSON.stringify(answer))
    return answer
  }
  const { body } = note(await site.ask<LineView>('lines/1', { operator, protocol: 'http', settings, secret, mapping }))
  expect(body.connections[0]).toMatchObject({ hasSecret: true })
  expect(note(await site.get<ConnectionPageView>('connections/1'))).toMatchObject({ hasSecret: true, settings })
  await expect.poll(() => asked.at(-1)).toBe(`Basic ${Buffer.from(`op:${secret}`).toString('base64')}`)
  await expect.poll(async () => (await site.get<RigView>('rig')).positions[0]?.live?.shown).toBe(8.15)
  // Saved again without it, it stays; to another host it does not go.
  const edit = (change: object, more = {}) =>
    site.ask<{ fields?: object }>('connections/1', {
      operator,
      name: 'Page',
      settings: { ...settings, ...change },
      ...more,
    })
  expect((await edit({ everyMs: 600 })).status).toBe(200)
  expect((await edit({ url: 'http://127.0.0.1:9/' })).body.fields).toHaveProperty(['settings.secret'])
  expect((await edit({ url: 'http://op:x@127.0.0.1:9/' })).status).toBe(400)
  note(await site.get('connections/1'))
  note(await site.get('connections'))
  note(await site.get('rig/device/1'))
  note(await (await fetch(`${site.url()}/api/backup/everything.json`)).text())
  note(await (await fetch(`${site.url()}/api/site/set-up.json`)).text())
  expect(said.join('\n')).not.toContain(secret)
  expect(said.join('\n')).not.toContain(Buffer.from(`op:${secret}`).toString('base64'))
  expect((await edit({ auth: 'none' }, { secret: '' })).status).toBe(200)
  await expect.poll(() => asked.at(-1)).toBeUndefined()
})
