import { randomUUID } from 'node:crypto'
import type { AlarmView, Mapping, PlanView, TellingView } from '@frustum/contract'
import { startPostOffice } from '@frustum/lab/stand-ins'
import { expect, it, onTestFinished } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'

const TOKEN = 'kQ3x9mZ7pL1vT5rN8wB2yC4d'
const KEY = 'a key of the mill itself'
const MINUTE = 60_000
const HOUR = 60 * MINUTE
const MAPPING: Mapping = {
  countsFrom: 0,
  format: 'json',
  value: { at: { field: '/ph' }, unit: '', scale: 1, offset: 0 },
}
const WISHES = {
  alarms: 'warning',
  from: 7,
  to: 22,
  afterMinutes: 0,
  repeatMinutes: 30,
  digestHour: null,
  reminders: false,
}
const FENN = { operator, name: 'Fenn', by: 'mail', address: 'fenn@mill.example', wishes: WISHES }

/** A site at 12:00 of its own clock whose sensor sends by itself, and where its messages go. */
async function toldSite() {
  const office = await startPostOffice(KEY)
  onTestFinished(() => office.close())
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater', { at: Date.UTC(2026, 0, 15, 11) })
  await site.ask('lines/1/token', { operator, token: TOKEN })
  await site.ask('lines/1', { operator, protocol: 'push', mapping: MAPPING })
  const limits = { high: 8.4, highHigh: 9, hysteresis: 0.05, delaySeconds: 0 }
  expect((await site.ask('probes/T1-pH/limits', { operator, limits })).status).toBe(200)
  const mail = { operator, host: '127.0.0.1', port: office.mail, security: 'none', sender: 'frustum@mill.example' }
  expect((await site.ask('telling/mail', mail)).status).toBe(200)
  return {
    ...site,
    office,
    send: async (ph: number) => {
      site.clock.set(site.clock.now() + MINUTE)
      const url = `${site.url()}/api/ingest/${TOKEN}`
      expect((await fetch(url, { method: 'POST', body: JSON.stringify({ ph }) })).status).toBe(200)
    },
    /** Sends until it is so. */
    async until(ph: number, isSo: () => boolean | Promise<boolean>) {
      await expect
        .poll(async () => {
          await this.send(ph)
          return isSo()
        })
        .toBe(true)
    },
  }
}

it('an alarm at night reaches who wants it: once, again until seen, when it is over, signed where it is a webhook', async () => {
  const site = await toldSite()
  const { office, clock } = site
  expect((await site.ask('telling/recipients', FENN)).status).toBe(201)
  const log = {
    ...FENN,
    name: 'Log',
    by: 'webhook',
    address: `http://127.0.0.1:${office.hooks}/log`,
    secret: KEY,
    wishes: { ...WISHES, alarms: 'notice', from: 0, to: 0, repeatMinutes: 0 },
  }
  expect((await site.ask('telling/recipients', log)).status).toBe(201)
  const mails = () => office.post.filter((p) => p.by === 'mail')

  // At three in the night what can wait is told to the log alone.
  clock.set(Date.UTC(2026, 0, 16, 2))
  await site.until(8.6, () => office.post.some((p) => p.by === 'webhook'))
  expect(office.post[0]).toMatchObject({
    signed: true,
    subject: 'Mill: T1-pH high: pH\u00a08.60, limit pH\u00a08.40',
    data: {
      kind: 'alarms',
      site: 'Mill',
      alarms: [{ position: 'T1-pH', kind: 'high', value: 8.6, severity: 'warning' }],
    },
  })
  expect(mails()).toEqual([])
  // What can kill is told at any hour.
  await site.until(9.2, () => mails().length > 0)
  expect(mails()[0]).toMatchObject({ to: FENN.address, subject: expect.stringContaining('T1-pH high-high') })
  expect(mails()[0]?.text).toContain('Measure by other means before you dose')

  // In the morning what waited, and what nobody saw is told again; once it is seen no more.
  const told = mails().length
  clock.set(Date.UTC(2026, 0, 16, 7))
  await site.until(9.2, () => mails().length > told && mails()[0]?.subject === 'Mill: 2 alarms')
  for (const { id } of await site.get<AlarmView[]>('alarms')) await site.ask(`alarms/${id}/acknowledge`, { operator })
  const seen = mails().length
  clock.set(clock.now() + HOUR)
  await site.send(9.2)
  await site.restart()
  // Each look of the server is told by the log: after the next alarm there, the mail that did not come would have.
  await site.until(8, async () => (await site.get<AlarmView[]>('alarms')).length === 0)
  const newest = () => mails().slice(0, mails().length - seen)
  await site.until(8.6, () => newest().some(({ subject }) => subject.includes('T1-pH high:')))
  expect(newest().filter(({ subject }) => subject === 'Mill: 2 alarms')).toEqual([])
  await site.until(8, () => mails()[0]?.subject === 'Mill: T1-pH returned to normal')
})

it('what does not arrive waits in the queue, is an alarm for the others, and arrives once, after a restart too', async () => {
  const site = await toldSite()
  const { office, clock } = site
  const wishes = { ...WISHES, repeatMinutes: 0 }
  const log = { name: 'Log', by: 'webhook', address: `http://127.0.0.1:${office.hooks}/log`, secret: KEY }
  for (const more of [{}, log]) await site.ask('telling/recipients', { ...FENN, ...more, wishes })
  const { port } = (await site.get<TellingView>('telling')).mail ?? { port: 0 }
  // Nobody listens there.
  await site.ask('telling/mail', {
    operator,
    host: '127.0.0.1',
    port: 9,
    security: 'none',
    sender: 'frustum@mill.example',
  })
  const isFailing = async () =>
    (await site.get<AlarmView[]>('alarms')).some((a) => a.kind === 'not-told' && a.returnedAt === null)
  await site.until(8.6, isFailing)
  await expect
    .poll(() => office.post.some((p) => p.subject === "Mill: Messages to Fenn aren't being delivered"))
    .toBe(true)
  const view = await site.get<TellingView>('telling')
  expect(view.recipients[0]?.problem?.text).toContain('127.0.0.1:9 cannot be reached')
  expect(office.post.filter((p) => p.by === 'mail')).toEqual([])

  await site.restart()
  await site.ask('telling/mail', {
    operator,
    host: '127.0.0.1',
    port,
    security: 'none',
    sender: 'frustum@mill.example',
  })
  const isWell = async () => {
    clock.set(clock.now() + 10 * MINUTE)
    return !(await isFailing())
  }
  await expect.poll(isWell).toBe(true)
  const subjects = office.post.filter((p) => p.by === 'mail').map((p) => p.subject)
  expect(subjects.filter((s) => s.includes('T1-pH high:'))).toHaveLength(1)

  // A night in which the server was off: one alarm, none of what happened in it.
  await site.restart(() => clock.set(clock.now() + 9 * HOUR))
  await expect
    .poll(async () => (await site.get<AlarmView[]>('alarms')).filter((a) => a.returnedAt !== null).map((a) => a.kind))
    .toContain('not-watched')
})

it('tells in the morning what is due, what to pack and what to buy; and what has to begin', async () => {
  const site = await toldSite()
  const { office, clock } = site
  await site.ask('telling/recipients', { ...FENN, wishes: { ...WISHES, alarms: null, digestHour: 6, reminders: true } })
  const { trips } = await site.get<PlanView>('plan')
  const [trip] = trips
  // 06:20 by the site's clock on the day of the first trip.
  clock.set((trip?.day ?? 0) + 6 * HOUR + 20 * MINUTE)
  await expect.poll(() => office.post.map((p) => p.subject)).toContain('Mill: 1 visit is due today')
  const digest = office.post.find((p) => p.subject.includes('due today'))
  expect(digest?.text).toMatch(/Hall, from 09:00:\n {2}T1-pH: .*min/)
  expect(digest?.text).toContain('To pack:')
  expect(digest?.text).toContain('To get less of this')
  await site.restart()
  clock.set(clock.now() + HOUR)
  await expect.poll(async () => (await site.get<TellingView>('telling')).messages.length).toBeGreaterThan(0)
  expect(office.post.filter((p) => p.subject.includes('due today'))).toHaveLength(1)

  const body = { operator, clientId: randomUUID(), position: 'T1-pH', procedure: 'self-ph-two-point', opening: {} }
  const standards = { first: 'pH7.00', second: 'pH10.01' }
  expect((await site.ask('visits', { ...body, standards })).status).toBe(201)
  clock.set(clock.now() + 24 * HOUR)
  await expect.poll(() => office.post.map((p) => p.text).join()).toMatch(/Visits still open:\n {2}T1-pH, .+, since/)
})

it('what is set is refused where it cannot be meant, tried where it stands, and no secret is answered', async () => {
  const site = await toldSite()
  const { office } = site
  const wrong = async (body: object) => (await site.ask('telling/recipients', { ...FENN, ...body })).status
  expect(await wrong({ address: 'fenn@mill.example\r\nBcc: all@mill.example' })).toBe(400)
  expect(await wrong({ address: 'nobody' })).toBe(400)
  expect(await wrong({ by: 'webhook', address: 'file:///etc/passwd' })).toBe(400)
  expect(await wrong({ by: 'mqtt', address: 'mill/alarms', connection: 99 })).toBe(400)
  expect(await wrong({ wishes: { ...WISHES, repeatMinutes: 2 } })).toBe(400)
  expect(await wrong({ name: 'Fenn\nX' })).toBe(400)
  expect(await wrong({ wishes: undefined })).toBe(400)

  const attempt = () => site.ask('telling/try', { operator, name: 'Fenn', by: 'mail', address: FENN.address })
  expect((await attempt()).status).toBe(200)
  expect(office.post[0]).toMatchObject({ to: FENN.address, subject: 'Mill: a try' })
  office.refuse(true)
  expect(await attempt()).toMatchObject({ status: 409, body: { detail: expect.stringContaining('Closed for now') } })
  for (let i = 0; i < 3; i++) await attempt()
  expect(await attempt()).toMatchObject({ status: 429 })

  const password = 'open says me, mill'
  const mail = { operator, host: '127.0.0.1', port: office.mail, security: 'none', sender: 'f@mill.example' }
  await site.ask('telling/mail', { ...mail, user: 'fenn', password })
  await site.ask('telling/recipients', {
    ...FENN,
    by: 'webhook',
    address: `http://127.0.0.1:${office.hooks}/hook-owned-by-who-knows-it?key=of-the-address`,
    secret: KEY,
  })
  const view = await site.get<TellingView>('telling')
  expect(view).toMatchObject({ mail: { hasPassword: true }, recipients: [{ hasSecret: true }] })
  const everything = await (await fetch(`${site.url()}/api/backup/everything.json`)).text()
  for (const text of [JSON.stringify(view), everything]) {
    expect(text).not.toContain(password)
    expect(text).not.toContain(KEY)
  }
  // Who knows a whole address owns the hook, so only its host is exported.
  expect(everything).toContain(`http://127.0.0.1:${office.hooks}`)
  for (const part of ['hook-owned-by-who-knows-it', 'of-the-address']) expect(everything).not.toContain(part)
  // A password is for one host: it does not follow to another.
  await site.ask('telling/mail', { ...mail, user: 'fenn', host: 'localhost' })
  expect((await site.get<TellingView>('telling')).mail?.hasPassword).toBe(false)
})
