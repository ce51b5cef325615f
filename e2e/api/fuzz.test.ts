import { randomUUID } from 'node:crypto'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { ENDPOINTS, type RigView, type ShelfView, type VisitView } from '@frustum/contract'
import { randomStream, USUAL_PRACTICES } from '@frustum/core'
import { expect, it, onTestFinished } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { startTestServer } from '../support/testServer.ts'

/** Thousands of requests that are nearly right, at every address: each has its answer, and none breaks the server. */

const REQUESTS = heavy(800, 20_000)
/** How often each path and query parameter gets an extreme value. */
const EXTREMES = 50
const SEED = 4711
const AT_ONCE = 6
/** Backups wait for each other, and each is read back whole: a slow machine takes a minute for some in a row. */
const PATIENCE_MS = 600_000

const NASTY: readonly unknown[] = [
  ...['', ' ', '\u0000', 'a\u0000b', '\ud800', 'x\udfffy', 'constructor', '__proto__', 'toString', 'hasOwnProperty'],
  ...['NaN', 'Infinity', '1e308', '-1e308', '1e-300', '-1', '1.5', '0x10', '99999999999', '9007199254740993', '٣'],
  ...[
    '0000-01-01',
    '9999-12-31',
    '2026-13-45',
    '-271821-04-20',
    '+275760-09-13',
    'UTC',
    'Europe/Nowhere',
    '%00',
    '../..',
  ],
  ...['x'.repeat(600), '\u202e\u0007', "'; drop table visits; --", '<script>', '{{7*7}}', '7,02', '1.413,5', '99 F'],
  ...[0, -0, 1, -1, 1.5, 1e21, 1e308, -1e308, 5e-324, 2 ** 31, -(2 ** 31) - 1, 2 ** 53, null, true, false],
  ...[[], [null], [[]], {}, { toString: 1 }, { length: 1e9 }, { __proto__: { a: 1 } }, { constructor: { name: 1 } }],
]

const asker = { clientId: randomUUID(), operator: 'S. Osk' }
const { operator } = asker
const rules = {
  tolerance: 0.1,
  reliability: 0.95,
  floorDays: 7,
  ceilingDays: 90,
  authorityDays: null,
  method: 'drift',
  processValue: 8.1,
}
const values = { name: 'Attic', sortOrder: '3', note: '' }
const day = Date.now()

const LINE = {
  countsFrom: 1,
  value: {
    at: { table: 'input', address: 5, type: 'float32', order: 'ABCD' },
    unit: 'pH',
    scale: 1,
    offset: 0,
    low: 0,
    high: 14,
    none: ['9999'],
    span: { at4: 0, at20: 14, unit: '' },
  },
  temperature: { position: 'CH-T-1' },
  status: { at: { table: 'holding', address: 5, type: 'uint16', order: 'ABCD' }, bits: [3], values: ['7'] },
  hold: { at: { table: 'coil', address: 5, type: 'bit', order: 'ABCD' }, on: 1, off: 0 },
}

/** Without a mail server, so that nobody else is sent anything. */
const RECIPIENT = {
  operator,
  name: 'Osk',
  by: 'mail',
  address: 'osk@mill.example',
  wishes: { alarms: 'notice', from: 0, to: 0, afterMinutes: 0, repeatMinutes: 0, digestHour: 7, reminders: true },
}

/** What is right at each address: what is sent is this, but for a thing or two. */
const RIGHT: Partial<Record<keyof typeof ENDPOINTS, unknown>> = {
  setSchools: { operator, practices: USUAL_PRACTICES },
  setKeeping: { operator, readingsDays: 400, hoursDays: null },
  // Over a connection that is there: nobody else is to be asked.
  setLine: { operator, connectionId: 1, address: { unit: 1 }, mapping: LINE },
  tryLine: { operator, connectionId: 1, address: { unit: 1 }, mapping: LINE },
  find: { operator, connectionId: 1, unit: 1, shown: { value: '8.05', temperature: '24.6 C' } },
  setToken: { operator, token: 'b1J3q9yZ0aXw7uT5sR3pQ1' },
  shelveAlarm: { operator, minutes: 30, reason: 'x' },
  setLimits: { operator, limits: { low: 7, high: 9, hysteresis: 0.1, delaySeconds: 60 } },
  addRecipient: RECIPIENT,
  takeBack: { operator, readAt: 1_700_000_000_000, reason: 'A slip' },
  keepWalk: {
    operator,
    readings: [{ position: 'CH-pH-4', shown: 8.1, beside: { value: 8.2, uncertainty: 0.05, with: 'Meter' } }],
  },
  changeRecipient: RECIPIENT,
  stopTelling: { what: 'due' },
  tryTelling: { operator, name: 'Fenn', by: 'mail', address: 'fenn@mill.example' },
  keepProfile: { operator, name: 'Mine', mapping: LINE },
  ingest: [{ n: 'ph', v: 7.1, t: -30 }],
  look: { operator, shown: { value: '7.01' }, unit: 2, further: false },
  setUp: { name: 'Mill', person: operator, timeZone: 'UTC' },
  addPosition: {
    operator,
    kind: 'ph',
    water: 'seawater',
    placeName: 'Attic',
    values: {
      code: 'AT-pH-1',
      spot: '',
      shows: 'value',
      adjustsBy: 'key',
      processValue: '8.2',
      processTemperature: '25',
      tolerance: '0.1',
      floorDays: '7',
      ceilingDays: '90',
      reliability: '95',
      consequence: '2',
      spareLeadDays: '21',
      cautions: '',
    },
    inUse: true,
  },
  putInUse: { operator, serial: '77', model: 'gel' },
  moveSensor: { operator, storage: 'drawer' },
  addThing: { operator, values, kind: 'ph', placeId: 1 },
  editThing: { operator, values, seen: values, mode: 'changed', on: '2026-01-05', why: 'moved' },
  moves: { values: { tolerance: '0.2', processValue: '7.1' }, mode: 'changed', on: '2026-01-05' },
  archiveThing: { operator, archived: true },
  whatIf: rules,
  changeRules: { ...rules, operator, why: 'agreed' },
  answerTest: { operator, feature: 'sharedShift', answer: 'its own' },
  noteEvent: { operator, kind: 'unplugged', at: day, note: 'cable' },
  confirmCause: { operator, cause: 'bubble' },
  readHourMeter: { operator, hours: 12 },
  startVisit: { ...asker, position: 'CH-pH-1', procedure: 'ph-check', standards: { first: 'pH7.00' }, opening: {} },
  done: { ...asker, step: 'hold' },
  skip: { ...asker, step: 'hold', reason: 'No flow' },
  redo: { ...asker, step: 'hold', reason: 'again' },
  wait: { ...asker, step: 'hold', what: 'soak' },
  capture: { ...asker, step: 'as-found' },
  typed: { ...asker, step: 'as-found', value: '8.02', temperature: '25', temperatureFrom: 'device' },
  fill: { ...asker, step: 'others', values: { value0: '8.05', uncertainty0: '0.02' } },
  decide: { ...asker, step: 'verdict', decision: 'leave-alone' },
  apply: { ...asker, step: 'apply', shownAfter: '7.00' },
  takeOver: asker,
  abandon: { ...asker, reason: 'it has to go' },
  exclude: { operator, excluded: true, reason: 'wrong cup' },
  startTrip: { ...asker, name: 'Hall', positions: ['CH-pH-1'] },
  endTrip: asker,
  movePlan: { operator, positions: ['CH-pH-1'], to: day + 86_400_000 },
  addLot: {
    operator,
    standard: 'pH7.00',
    lot: '7-1',
    expiresOn: '2027-01-01',
    keepsDays: 90,
    volume: 500,
    storage: 'cold',
  },
  actOnLot: { operator, action: 'use', milliliters: 20, reason: 'spilt' },
  addInstrument: {
    operator,
    kind: 'kit',
    name: 'Kit',
    serial: '',
    calibratedOn: '2026-01-01',
    uncertainty: 0.1,
    unit: 'pH',
  },
  correct: { operator, text: 'Read in °F.' },
  signIn: { name: operator, password: 'slow tide at noon' },
  switchPerson: { person: '1', pin: '4071' },
  setPassword: { current: 'slow tide at noon', password: 'another, longer one' },
  setPin: { password: 'slow tide at noon', pin: '4071' },
  setReader: { temperature: '°F' },
  askSignIn: { on: false },
  givePassword: { password: 'another, longer one' },
  setBackup: { operator, folder: '', nightly: true, hour: 2, keepDays: 7, keepWeeks: 4, keepMonths: 12 },
  restoreBackup: { operator, file: 'frustum-mill.tar.gz', passphrase: '' },
}

it('answers all of them below 500, without a trace of its inside', { timeout: 3_600_000 }, async () => {
  const server = await startTestServer({ sensors: ['CH-pH-1', 'WH-pH-2', 'BR-ORP-1'] })
  onTestFinished(() => server.stop())
  const random = randomStream(SEED)
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random.uniform() * from.length)] as T
  const nasty = () => pick(NASTY)

  const { body: visit } = await server.ask<VisitView>('/api/visits', RIGHT.startVisit)
  const { body: rig } = await server.ask<RigView>('/api/rig')
  const { body: shelf } = await server.ask<ShelfView>('/api/shelf')
  const known: Record<string, readonly unknown[]> = {
    position: ['CH-pH-1', 'WH-pH-2'],
    subject: ['position', 'device', 'place', 'sensor', 'person', 'consumable', 'standard', 'template', 'site'],
    id: [visit.id, '1', String(rig.positions[0]?.id), String(shelf.lots[0]?.id), randomUUID()],
    change: ['1', '2'],
    visit: [visit.id],
    token: ['none'],
    sha256: ['f'.repeat(64)],
  }
  const parameter = (name: string) =>
    encoded(String(random.uniform() < 0.75 ? pick(known[name] ?? ['1']) : safeText(nasty())))
  const spoilt = (right: unknown): unknown => {
    if (random.uniform() < 0.08) return nasty()
    if (typeof right !== 'object' || right === null) return right
    const copy = structuredClone(right) as Record<string, unknown>
    const keys = Object.keys(copy)
    const key = random.uniform() < 0.1 || keys.length === 0 ? safeText(nasty()) : pick(keys)
    const inner = copy[key]
    if (random.uniform() < 0.1) delete copy[key]
    else copy[key] = typeof inner === 'object' && inner !== null && random.uniform() < 0.7 ? spoilt(inner) : nasty()
    return copy
  }
  const names = Object.keys(ENDPOINTS) as (keyof typeof ENDPOINTS)[]
  const request = (name: keyof typeof ENDPOINTS, extreme?: string) => {
    const { path, method, query } = ENDPOINTS[name]
    const value = (parameterName: string) =>
      parameterName === extreme ? encoded(safeText(nasty())) : parameter(parameterName)
    const address = path.replace(/:(\w+)/g, (_, parameterName: string) => value(parameterName))
    const asked = query.filter((q) => q === extreme || random.uniform() < 0.3).map((q) => `${q}=${value(q)}`)
    const twice = random.uniform() < 0.3
    const right = RIGHT[name] ?? { operator }
    const body = extreme ? right : twice ? spoilt(spoilt(right)) : spoilt(right)
    return {
      name,
      method,
      address: asked.length > 0 ? `${address}?${asked.join('&')}` : address,
      body: method === 'POST' ? JSON.stringify(body) : undefined,
    }
  }
  // Every parameter of every address gets its share of extreme values; then come requests at random.
  const parameters = names.flatMap((name) =>
    parameterNames(ENDPOINTS[name]).map((parameterName) => ({ name, parameterName })),
  )
  expect(parameters.length).toBeGreaterThan(80)
  const requests = [
    ...parameters.flatMap(({ name, parameterName }) =>
      Array.from({ length: EXTREMES }, () => request(name, parameterName)),
    ),
    ...Array.from({ length: REQUESTS }, () => request(pick(names))),
  ]
  const bad: string[] = []
  const before = heapUsed()
  let next = 0
  const ask = async () => {
    for (let one = requests[next++]; one; one = requests[next++]) {
      const { name, method, address, body } = one
      // A stream has no end of its own.
      const signal = AbortSignal.timeout(name === 'live' || name === 'visitLive' ? 300 : PATIENCE_MS)
      const answer = await fetch(server.url + address, {
        method,
        signal,
        headers: { 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body }),
      })
        .then(async (r) => ({ status: r.status, text: await r.text() }))
        .catch((error: Error) => ({ status: name.toLowerCase().includes('live') ? 200 : 999, text: error.message }))
      if (answer.status >= 500 || /node_modules|\bat .*\.ts:\d/.test(answer.text)) {
        bad.push(`${answer.status} ${method} ${address} ${body?.slice(0, 300) ?? ''} ${answer.text.slice(0, 120)}`)
      }
    }
  }
  await Promise.all(Array.from({ length: AT_ONCE }, ask))
  expect(bad, `${bad.length} of ${requests.length}`).toEqual([])
  for (const path of ['/api/rounds', '/api/probes', '/api/plan', '/api/rig', '/api/shelf', '/api/ledger']) {
    expect([path, (await server.ask(path)).status]).toEqual([path, 200])
  }
  expect(heapUsed() - before).toBeLessThan(200e6)
})

const encoded = (value: string): string => (/\p{Surrogate}/u.test(value) ? '%ED%A0%80' : encodeURIComponent(value))

const parameterNames = ({ path, query }: { path: string; query: readonly string[] }): string[] => [
  ...[...path.matchAll(/:(\w+)/g)].map(([, name]) => name as string),
  ...query,
]

/** Some of it cannot be made a text. */
function safeText(value: unknown): string {
  try {
    return String(value)
  } catch {
    return JSON.stringify(value)
  }
}

function heapUsed(): number {
  setFlagsFromString('--expose-gc')
  runInNewContext('gc')()
  return process.memoryUsage().heapUsed
}
