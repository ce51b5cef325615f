import { request } from 'node:http'
import { ENDPOINTS, type MeView, type PlanView, type SiteChangeView } from '@frustum/contract'
import { mayDo, ROLES, type Role } from '@frustum/core'
import { readConfig, startServer } from '@frustum/server'
import { leadAtServer } from '@frustum/server/owner'
import { describe, expect, it, vi } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { WrongTries } from '../../server/src/people/wrongTries.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** Who gets in, what they may do, and in whose name it is recorded. */

const PASSWORD = 'slow tide at noon'
const LIST = 'code,kind,place,water\nT1-pH,pH,Hall,nutrient'

type Site = Awaited<ReturnType<typeof ownSite>>

/** A browser: it keeps its cookies, and nothing else. */
function browser({ url }: Pick<Site, 'url'>) {
  const cookies = new Map<string, string>()
  const ask = async <T>(path: string, body?: object, headers: Record<string, string> = {}) => {
    const response = await fetch(`${url()}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: { 'content-type': 'application/json', cookie: [...cookies.values()].join('; '), ...headers },
    })
    const [set = null, ...more] = response.headers.getSetCookie()
    for (const one of [...(set ? [set] : []), ...more]) cookies.set(one.split('=')[0] ?? '', one.split(';')[0] ?? '')
    const text = await response.text()
    return {
      status: response.status,
      set,
      body: (text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : null) as T,
    }
  }
  return {
    ask,
    signIn: (name: string, password = PASSWORD) => ask<MeView & { code?: string }>('me/sign-in', { name, password }),
    /** That of its session. */
    copy: () => [...cookies.values()][0] ?? '',
  }
}

/** A site where people sign in: a lead, an operator with a PIN, and a viewer. */
async function signedSite() {
  const site = await ownSite(LIST)
  const lead = browser(site)
  expect((await lead.ask('people/sign-in', { on: true, name: operator, password: PASSWORD })).status).toBe(200)
  const add = async (name: string, role: Role) => {
    const added = await lead.ask<{ id: number }>('rig/person', { operator, values: { name, role } })
    expect((await lead.ask(`people/${added.body.id}/password`, { password: PASSWORD })).status).toBe(200)
    const theirs = browser(site)
    expect((await theirs.signIn(name)).status).toBe(200)
    return { ...theirs, id: added.body.id, name }
  }
  return { site, lead, hand: await add('B. Reed', 'operator'), eye: await add('C. Holm', 'viewer') }
}

it('every address asks for what the contract says, of every role', async () => {
  const { site, lead, hand, eye } = await signedSite()
  const asked: Record<Role, ReturnType<typeof browser>> = { viewer: eye, operator: hand, lead }
  const nobody = browser(site)
  const wrong: string[] = []
  for (const [name, { method, path, needs }] of Object.entries(ENDPOINTS)) {
    const streams = name === 'live' || name === 'visitLive'
    // These change who asks, and are tried apart.
    if (['signIn', 'signOut', 'switchPerson', 'askSignIn', 'setPassword', 'setPin'].includes(name) || streams) continue
    const address = path.slice('/api/'.length).replace(/:\w+/g, 'nothing')
    const ask = (who: ReturnType<typeof browser>) =>
      who.ask<{ code?: string }>(address, method === 'POST' ? {} : undefined)
    const without = await ask(nobody)
    if ((without.status === 401) !== (needs !== 'anyone')) wrong.push(`${name}: ${without.status} for nobody`)
    for (const role of Object.keys(ROLES) as Role[]) {
      const { status, body } = await ask(asked[role])
      const refused = status === 401 || (status === 403 && body?.code === 'role')
      if (refused === (needs === 'anyone' || mayDo(role, needs)) || status >= 500)
        wrong.push(`${name}: ${status} for ${role}`)
    }
  }
  expect(wrong).toEqual([])
  // Other letters, a slash behind it, and what nobody knows open nothing more.
  for (const path of [
    'RIG',
    'rig/',
    'Rig/Set-Up.json',
    'live',
    'no/such',
    'extensions/none',
    'rig%2Fset-up.json',
    '',
  ]) {
    expect([path, (await nobody.ask(path)).status]).toEqual([path, 401])
  }
  expect((await nobody.ask('', {}, { 'x-http-method-override': 'GET' })).status).toBe(401)
  expect((await eye.ask('RIG/Person/', { values: { name: 'X' } })).status).toBe(403)
  expect((await eye.ask('no/such', {})).status).toBe(403)
  // Refused before it is read.
  const sent = await new Promise<number>((resolve, reject) => {
    const asking = request(
      `${site.url()}/api/ledger/import`,
      { method: 'POST', headers: { 'content-length': 200_000_000 } },
      (answer) => {
        resolve(answer.statusCode ?? 0)
        asking.destroy()
      },
    )
    asking.on('error', reject)
    asking.write('{')
  })
  expect(sent).toBe(401)
})

it('records name who is signed in, whoever is named in the request', async () => {
  const { site, lead, hand } = await signedSite()
  const shelf = await hand.ask('shelf', {
    operator: 'A. Fenn',
    standard: 'pH7.00',
    lot: 'L1',
    expiresOn: '2027-01-01',
    keepsDays: 90,
    volume: 500,
    storage: 'cold',
  })
  expect(shelf.status).toBe(201)
  const noted = await hand.ask<{ events: { operator?: string }[] }>('probes/T1-pH/events', {
    operator: 'A. Fenn',
    kind: 'cleaned',
    at: site.clock.now(),
    note: 'tip',
  })
  expect(noted.status).toBe(200)
  expect(JSON.stringify(noted.body)).toContain('B. Reed')
  const sheet = await fetch(
    `${site.url()}/api/bring/sensors?name=a.csv&operator=E.%20Vil&options=${encodeURIComponent('{"take":true,"place":"Hall","water":"nutrient"}')}`,
    {
      method: 'POST',
      body: 'code,kind,place,water\nT2-pH,pH,Hall,nutrient',
      headers: { cookie: lead.copy() },
    },
  )
  expect(sheet.status).toBe(200)
  const { body: taken } = await lead.ask<{ operator: string }[]>('bring/taken')
  expect(taken[0]?.operator).toBe(operator)
  const { body: done } = await lead.ask<SiteChangeView[]>('changes')
  expect(done.map((c) => `${c.operator}: ${String(c.what)}`)).toContain('B. Reed: Signed in')
})

describe('signing in', () => {
  it('sets a cookie that no page can read and no other site sends, and rests on a random token alone', async () => {
    const site = await ownSite(LIST)
    const one = browser(site)
    const { set } = await one.ask('people/sign-in', { on: true, name: operator, password: PASSWORD })
    expect(set).toMatch(/^frustum-[0-9a-f]{8}=[\w-]{43}; .*HttpOnly; SameSite=Strict$/)
    // A second sign-in gives another token, and ends the one before.
    const first = one.copy()
    await one.signIn(operator)
    expect(one.copy()).not.toBe(first)
    expect((await browser(site).ask('site', undefined, { cookie: first })).status).toBe(401)
    expect((await browser(site).ask('site', undefined, { cookie: `${first}x` })).status).toBe(401)
  })

  it('does not tell whether there is such a person, and stops those who try on, many at once too', async () => {
    const { site } = await signedSite()
    const one = browser(site)
    const [wrong, unknown] = [await one.signIn('B. Reed', 'no such password'), await one.signIn('N. Body')]
    expect([wrong.status, wrong.body.code]).toEqual([unknown.status, unknown.body.code])
    for (let i = 0; i < 4; i++) await one.signIn('B. Reed', `wrong ${i}`)
    expect((await one.signIn('b. reed')).status).toBe(429)
    // Somebody else still gets in.
    expect((await one.signIn('C. Holm')).status).toBe(200)
    const tries = await Promise.all(Array.from({ length: 12 }, (_, i) => browser(site).signIn(operator, `wrong ${i}`)))
    expect(tries.filter((t) => t.status === 401).length).toBeLessThanOrEqual(5)
    expect(tries.filter((t) => t.status === 429).length).toBeGreaterThanOrEqual(7)
  })

  it('lasts over a restart, not beyond 30 days without use, and ends everywhere at once: by oneself, by a new password, by being archived', async () => {
    const { site, lead, hand, eye } = await signedSite()
    const phone = browser(site)
    await phone.signIn('B. Reed')
    await hand.ask('me/sign-out', { everywhere: true })
    expect((await phone.ask('site')).status).toBe(401)
    await phone.signIn('B. Reed')
    await lead.ask(`people/${hand.id}/password`, { password: 'another one, longer' })
    expect((await phone.ask('site')).status).toBe(401)
    expect((await phone.signIn('B. Reed')).status).toBe(401)
    expect((await phone.signIn('B. Reed', 'another one, longer')).status).toBe(200)
    await lead.ask(`rig/person/${eye.id}/archive`, { operator, archived: true })
    expect((await eye.ask('site')).status).toBe(401)
    expect((await eye.signIn('C. Holm')).status).toBe(401)
    await site.restart()
    expect((await phone.ask('site')).status).toBe(200)
    site.clock.set(site.clock.now() + 31 * 86_400_000)
    expect((await phone.ask('site')).status).toBe(401)
  })
})

it('a shared tablet is taken over by PIN, for an operator’s work at most; wrong PINs sign it out', async () => {
  const { site, lead, hand } = await signedSite()
  for (const [who, pin] of [
    [lead, '280517'],
    [hand, '4071'],
  ] as const) {
    expect((await who.ask('me/pin', { password: 'not mine at all', pin })).status).toBe(403)
    for (const easy of ['1234', '0000', '9876', '12']) {
      expect((await who.ask('me/pin', { password: PASSWORD, pin: easy })).status).toBe(400)
    }
    expect((await who.ask('me/pin', { password: PASSWORD, pin })).status).toBe(200)
  }
  const tablet = browser(site)
  const { body: me } = await tablet.signIn(operator)
  const person = (name: string) => String(me.others.find((o) => o.name === name)?.id ?? me.person?.id)
  expect((await tablet.ask<MeView>('me/switch', { person: person('B. Reed'), pin: '4071' })).body).toMatchObject({
    person: { name: 'B. Reed' },
    role: 'operator',
    by: 'pin',
  })
  // Back to the lead by PIN: their name, an operator's work.
  const back = await tablet.ask<MeView>('me/switch', { person: String(me.person?.id), pin: '280517' })
  expect(back.body).toMatchObject({ person: { name: operator, role: 'lead' }, role: 'operator' })
  expect((await tablet.ask('rig/person', { values: { name: 'D. Kay' } })).status).toBe(403)
  const wrong = []
  for (let i = 0; i < 6; i++)
    wrong.push((await tablet.ask('me/switch', { person: String(hand.id), pin: `50${i}7` })).status)
  expect(wrong).toEqual([403, 403, 403, 403, 401, 401])
  expect((await tablet.ask('site')).status).toBe(401)
})

it('wrong PINs count against the person and the browser through any number of sign-ins, and the person is told', async () => {
  const { site, hand, eye } = await signedSite()
  await hand.ask('me/pin', { password: PASSWORD, pin: '4071' })
  const guess = async (who: ReturnType<typeof browser>, id: number, pin: string) =>
    (await who.ask('me/switch', { person: String(id), pin })).status
  for (let i = 0; i < 5; i++) await guess(eye, hand.id, `50${i}7`)
  // From another browser and account, with the right PIN: the person is locked.
  const other = browser(site)
  await other.signIn(operator)
  expect(await guess(other, hand.id, '4071')).toBe(429)
  // From the same browser, for another person: the browser is locked.
  await eye.signIn('C. Holm')
  expect(await guess(eye, hand.id, '4071')).toBe(429)
  expect(await guess(eye, eye.id, '9031')).toBe(429)
  const { body: me } = await hand.ask<MeView>('me')
  expect(me.wrongTries.map((t) => t.what)).toEqual(['5 wrong PINs in a row. The tablet was signed out'])
  expect((await other.ask<MeView>('me')).body.wrongTries).toEqual([])
  const { body: done } = await other.ask<SiteChangeView[]>('changes')
  expect(done.map((c) => `${c.operator}: ${String(c.what)}`)).toContain(`C. Holm: ${me.wrongTries[0]?.what}`)
})

it('one person’s tries lock nobody else behind the same address, and right passwords never do', async () => {
  const { site } = await signedSite()
  for (let i = 0; i < 60; i++) await browser(site).signIn('B. Reed', `wrong ${i}`)
  // More than an address may fail.
  for (let i = 0; i < heavy(3, 45); i++) expect((await browser(site).signIn('C. Holm')).status).toBe(200)
  const address = new WrongTries(2)
  for (let i = 0; i < 5; i++) {
    await address.count('x')
    await address.forgive('x')
  }
  expect((await browser(site).signIn('B. Reed')).status).toBe(429)
})

it('each further series of wrong tries locks for twice as long', async () => {
  vi.useFakeTimers({ toFake: ['Date', 'setTimeout', 'clearTimeout'] })
  try {
    const tries = new WrongTries(5)
    const locks: number[] = []
    for (let series = 0; series < 4; series++) {
      for (let i = 0; i < 5; i++) expect(await tries.count('x')).toBe(i === 4)
      await tries.lock('x')
      let minutes = 0
      const isLocked = () => tries.count('x').then(Boolean, () => null)
      while ((await isLocked()) === null) {
        vi.advanceTimersByTime(60_000)
        minutes++
      }
      await tries.clear('x')
      locks.push(minutes)
    }
    expect(locks).toEqual([15, 30, 60, 120])
  } finally {
    vi.useRealTimers()
  }
})

it('the calendar is a lead’s to hand out, the last lead stays one, and a stream ends when whoever listens is signed out', async () => {
  const { site, lead, hand } = await signedSite()
  const { body: plan } = await lead.ask<PlanView>('plan')
  expect((await hand.ask<PlanView>('plan')).body.calendarPath).toBeNull()
  const read = async (path: string | null) => (await fetch(`${site.url()}${path}`)).status
  expect(await read(plan.calendarPath)).toBe(200)
  const { body: renewed } = await lead.ask<PlanView>('plan/calendar/renew', { operator })
  expect([await read(plan.calendarPath), await read(renewed.calendarPath)]).toEqual([404, 200])
  const { body: me } = await lead.ask<MeView>('me')
  const path = `rig/person/${me.person?.id}`
  const demoted = { operator, values: { role: 'viewer' }, seen: {}, mode: 'wrong' }
  expect((await lead.ask(path, demoted)).status).toBe(409)
  expect((await lead.ask(`${path}/archive`, { operator, archived: true })).status).toBe(409)
  expect((await lead.ask<MeView>('me')).body.role).toBe('lead')
  vi.useFakeTimers({ toFake: ['setInterval'] })
  try {
    const stream = await fetch(`${site.url()}/api/live`, { headers: { cookie: hand.copy() } })
    await hand.ask('me/sign-out', { everywhere: false })
    vi.advanceTimersByTime(15_001)
    const reader = (stream.body as ReadableStream<Uint8Array>).getReader()
    while (!(await reader.read()).done);
  } finally {
    vi.useRealTimers()
  }
})

describe('a server that others reach', () => {
  const start = async (folder: string, env: Record<string, string>) =>
    startServer(readConfig({ FRUSTUM_DATA: folder, PORT: '', ...env }, null))

  it('does not start until a lead has a password, and says how', async () => {
    const site = await ownSite(LIST)
    await site.stop()
    const open: Record<string, string>[] = [{ HOST: '0.0.0.0' }, { HOST: '::' }, { FRUSTUM_NAMES: 'tank.example' }]
    for (const env of open) await expect(start(site.folder, env)).rejects.toThrow(/npm run lead .*FRUSTUM_DATA=/)
    const lead = { name: operator, password: PASSWORD, site: 'Mill', timeZone: 'UTC' }
    await leadAtServer(site.folder, lead)
    for (const env of open) {
      const server = await start(site.folder, env)
      const port = new URL(server.url).port
      const one = browser({ url: () => `http://127.0.0.1:${port}` })
      expect((await one.ask('site')).status).toBe(401)
      expect((await one.signIn(operator)).body).toMatchObject({ mustSignIn: true, role: 'lead' })
      expect((await one.ask('people/sign-in', { on: false })).status).toBe(409)
      // A lost password is set anew while the server runs.
      const password = `${PASSWORD} ${port}`
      await leadAtServer(site.folder, { ...lead, password })
      expect((await one.ask('site')).status).toBe(401)
      expect((await one.signIn(operator, password)).status).toBe(200)
      await leadAtServer(site.folder, lead)
      await server.stop()
    }
  })

  it('believes no proxy that was not named', async () => {
    const site = await ownSite(LIST)
    await site.stop()
    const said = { 'x-forwarded-proto': 'https', 'x-forwarded-for': '192.0.2.7', 'x-forwarded-host': 'evil.example' }
    for (const [proxy, secure] of [
      ['', false],
      ['127.0.0.1', true],
    ] as const) {
      const server = await start(site.folder, { HOST: '127.0.0.1', FRUSTUM_PROXY: proxy })
      const one = browser(server.url ? { url: () => server.url } : site)
      const { set } = await one.ask('people/sign-in', { on: true, name: operator, password: PASSWORD }, said)
      expect(/; Secure/.test(set ?? '')).toBe(secure)
      await one.ask('people/sign-in', { on: false })
      await server.stop()
    }
    expect(() => readConfig({ FRUSTUM_PROXY: 'everybody' }, null)).toThrow(/FRUSTUM_PROXY has/)
  })
})

it.each(['abc', '0', '-5', '1e9', 'NaN'])('a polling time and a log level of %s are refused at start', (text) => {
  expect(() => readConfig({ FRUSTUM_POLL_MS: text }, null)).toThrow(/FRUSTUM_POLL_MS is/)
  expect(() => readConfig({ LOG_LEVEL: text }, null)).toThrow(/LOG_LEVEL is/)
})
