import { createHash, X509Certificate } from 'node:crypto'
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { request as askPlain } from 'node:http'
import { request as askSecurely, type RequestOptions } from 'node:https'
import { connect } from 'node:net'
import { join } from 'node:path'
import { type RunningServer, readConfig, startServer } from '@frustum/server'
import { checkLead } from '@frustum/server/begin'
import { leadAtServer } from '@frustum/server/owner'
import { describe, expect, it, onTestFinished } from 'vitest'
import { certify, isGoodFor, makeAuthority, mayCertify } from '../../server/src/network/authority.ts'
import { ownCertificates } from '../../server/src/network/certificates.ts'
import { newFolder, operator, ownSite } from '../support/ownSite.ts'

/** Encrypted on the local network; every request of these tests is to this machine's own loopback. */

const PASSWORD = 'slow tide at noon'
const DAY = 86_400_000

/** Every file of a folder with the digest of what is in it. */
const filesOf = (folder: string) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map(({ parentPath, name }) => {
      const path = join(parentPath, name)
      return [path, createHash('sha256').update(readFileSync(path)).digest('hex')]
    })

const asked = (
  ask: typeof askSecurely | typeof askPlain,
  port: number,
  path: string,
  more: RequestOptions = {},
  body?: object,
) =>
  new Promise<{ status: number; text: string; headers: Record<string, unknown> }>((resolve, reject) => {
    const options = { host: '127.0.0.1', port, path, method: body ? 'POST' : 'GET', agent: false, ...more }
    const asking = ask({ ...options, headers: { 'content-type': 'application/json', ...more.headers } }, (answer) => {
      let text = ''
      answer.setEncoding('utf8')
      answer.on('data', (part) => {
        text += part
      })
      answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text, headers: answer.headers }))
    })
    asking.on('error', reject)
    asking.end(body && JSON.stringify(body))
  })

describe('a server on the local network', () => {
  const started = async () => {
    const folder = newFolder()
    await leadAtServer(folder, { name: operator, password: PASSWORD, site: 'Mill & <Pond>', timeZone: 'UTC' })
    const server: RunningServer = await startServer(readConfig({ FRUSTUM_DATA: folder }, null, 'own'))
    onTestFinished(() => server.stop())
    const port = Number(new URL(server.url).port)
    return { folder, server, port, ca: readFileSync(join(folder, 'network', 'authority.crt')) }
  }

  it('serves what its own authority certifies, signs in there alone, and leads plain requests to it', async () => {
    const { folder, server, port, ca } = await started()
    const me = await asked(askSecurely, port, '/api/me', { ca })
    expect(JSON.parse(me.text)).toMatchObject({ mustSignIn: true, person: null })
    // Under its name as well; by nobody else's authority.
    expect((await asked(askSecurely, port, '/api/me', { ca, host: 'localhost' })).status).toBe(200)
    await expect(asked(askSecurely, port, '/api/me')).rejects.toThrow(/certificate|issuer/)
    const signIn = { name: operator, password: PASSWORD }
    const { headers } = await asked(askSecurely, port, '/api/me/sign-in', { ca }, signIn)
    expect(String(headers['set-cookie'])).toMatch(/; HttpOnly; Secure; SameSite=Strict/)
    // Without encryption: the way there, the authority for phones, and nothing of the site.
    const plain = await asked(askPlain, port, '/')
    expect(plain.text).toContain(`https://127.0.0.1:${port}/`)
    expect(plain.text).toContain('Mill &amp; &lt;Pond&gt;')
    expect(plain.text).toContain(new X509Certificate(ca).fingerprint256)
    expect(server.lan?.authority).toBe(new X509Certificate(ca).fingerprint256)
    for (const [path, body] of [['/api/site'], ['/rig?a=b'], ['/api/me/sign-in', signIn]] as const) {
      const led = await asked(askPlain, port, path, {}, body)
      expect([led.status, led.headers.location]).toEqual([302, `https://127.0.0.1:${port}${path}`])
    }
    expect((await asked(askPlain, port, '/', { headers: { host: 'evil.example' } })).status).toBe(421)
    expect((await asked(askPlain, port, '/api', { headers: { host: 'evil.example' } })).status).toBe(421)
    // Keys are for their owner alone.
    const modes = readdirSync(join(folder, 'network')).map((file) => [
      file,
      statSync(join(folder, 'network', file)).mode & 0o077,
    ])
    expect(modes.filter(([file]) => String(file).endsWith('.key'))).toEqual([
      ['authority.key', 0],
      ['server.key', 0],
    ])
    expect(readdirSync(join(folder, 'network')).filter((f) => f.endsWith('.new'))).toEqual([])
  })

  it('stops at once with open streams, and needs a lead at whatever address it listens', async () => {
    const { folder, server, port, ca } = await started()
    const signIn = { name: operator, password: PASSWORD }
    const { headers } = await asked(askSecurely, port, '/api/me/sign-in', { ca }, signIn)
    const cookie = String(headers['set-cookie']).split(';')[0]
    const streaming = await new Promise<{ ended: Promise<unknown> }>((resolve, reject) => {
      const asking = askSecurely({ host: '127.0.0.1', port, path: '/api/live', ca, agent: false, headers: { cookie } })
      asking.once('response', (answer) =>
        resolve({ ended: new Promise((done) => answer.on('error', done).on('close', done).resume()) }),
      )
      asking.on('error', reject).end()
    })
    const head = await asked(askSecurely, port, '/api/live', { ca, method: 'HEAD', headers: { cookie } })
    expect([head.status, head.text]).toEqual([200, ''])
    await server.stop()
    await streaming.ended
    const empty = newFolder()
    const config = (dataFolder: string) => readConfig({ FRUSTUM_DATA: dataFolder, HOST: '127.0.0.1' }, null, 'own')
    const start = (dataFolder: string) => startServer(config(dataFolder))
    await expect(checkLead(config(empty))).rejects.toThrow(/npm run lead/)
    expect(readdirSync(empty)).toEqual([])
    // A site that nobody can sign in to is looked at without a byte of it being changed.
    const { folder: leaderless, stop } = await ownSite('')
    await stop()
    const before = filesOf(leaderless)
    await expect(checkLead(config(leaderless))).rejects.toThrow(/npm run lead/)
    expect(filesOf(leaderless)).toEqual(before)
    await checkLead(config(folder))
    await expect(start(empty)).rejects.toThrow(/npm run lead/)
    const again = await start(folder)
    const me = await asked(askSecurely, Number(new URL(again.url).port), '/api/me', { ca })
    expect(JSON.parse(me.text)).toMatchObject({ mustSignIn: true, person: null })
    await again.stop()
  })

  it('who says nothing, or no sense, holds up nobody', async () => {
    const { port, ca } = await started()
    const said = [
      Buffer.alloc(0),
      Buffer.from([0x16]),
      Buffer.from([0x16, 3, 1, 0xff, 0xff, 0, 0]),
      Buffer.from('\0\0\0\r\n\r\n'),
    ]
    const sockets = said.map((bytes) => {
      const socket = connect(port, '127.0.0.1', () => void socket.write(bytes))
      return socket.on('error', () => undefined)
    })
    onTestFinished(() => {
      for (const socket of sockets) socket.destroy()
    })
    for (let i = 0; i < 5; i++) expect((await asked(askSecurely, port, '/api/me', { ca })).status).toBe(200)
  })
})

describe('an authority', () => {
  const NAMES = ['localhost', 'mill', 'mill.local', 'mill.lan']

  it('certifies this machine in private networks and nothing else', async () => {
    const now = Date.now()
    const authority = await makeAuthority('Mill, "Pond"', NAMES, now)
    const ca = new X509Certificate(authority.certificate)
    expect(ca.subject).toBe('CN=Frustum of Mill   Pond')
    const server = await certify(authority, ['192.168.1.20', 'fd00::12', 'mill', 'mill.local'], now)
    expect(new X509Certificate(server.certificate).verify(ca.publicKey)).toBe(true)
    const seen = new X509Certificate(server.certificate)
    expect(seen.checkIP('192.168.1.20') && seen.checkHost('mill.local')).toBeTruthy()
    expect(seen.checkIP('192.168.1.21') ?? seen.checkHost('evil.example')).toBeUndefined()
    const days = (Date.parse(seen.validTo) - now) / DAY
    // What browsers take: at most 398 days.
    expect(days).toBeLessThanOrEqual(398)
  })

  it.each([
    ['10.1.2.3', true],
    ['172.31.255.255', true],
    ['172.32.0.0', false],
    ['192.168.0.1', true],
    ['8.8.8.8', false],
    ['fd12::1', true],
    ['fe80::1', true],
    ['febf::1', true],
    ['fec0::1', false],
    ['2001:db8::1', false],
    ['::1', true],
    ['mill', true],
    ['tank.mill.lan', true],
    ['emill', false],
    ['mill.local', true],
    ['tank.local', false],
    ['evil.example', false],
  ])('%s: %s', (name, may) => {
    expect(mayCertify(NAMES, name)).toBe(may)
  })

  it('stays, while its certificates are renewed before they end and for each new address', async () => {
    const dataFolder = newFolder()
    const now = Date.now()
    const made = (names: string[], at: number) => ownCertificates({ dataFolder, site: 'Mill', names, now: at })
    const first = await made(['192.168.1.20'], now)
    expect((await made(['192.168.1.20'], now + 300 * DAY)).server).toEqual(first.server)
    const moved = await made(['192.168.7.4'], now)
    expect(moved.server.certificate).not.toBe(first.server.certificate)
    const later = await made(['192.168.7.4'], now + 370 * DAY)
    expect(isGoodFor(later.server.certificate, ['192.168.7.4'], now + 700 * DAY)).toBe(true)
    expect([moved.authority, later.authority]).toEqual([first.authority, first.authority])
    // A public address is left out, and the rest is certified.
    expect((await made(['192.0.2.7', '192.168.7.4'], now + 371 * DAY)).names).toEqual([
      '192.168.7.4',
      'localhost',
      '127.0.0.1',
      '::1',
    ])
  })
})

it('a certificate that is given must go with its key, and is served as it is', async () => {
  const [folder, other] = [newFolder(), newFolder()]
  const { server: given } = await ownCertificates({ dataFolder: other, site: 'Mill', names: ['mill'], now: Date.now() })
  const paths = { certificate: join(other, 'given.crt'), key: join(other, 'given.key') }
  writeFileSync(paths.certificate, given.certificate)
  writeFileSync(paths.key, 'no key')
  await leadAtServer(folder, { name: operator, password: PASSWORD, site: 'Mill', timeZone: 'UTC' })
  const start = () => startServer(readConfig({ FRUSTUM_DATA: folder }, null, paths))
  await expect(start()).rejects.toThrow(/cannot be used .*Nothing was started/)
  writeFileSync(paths.key, given.key)
  const server = await start()
  onTestFinished(() => server.stop())
  const port = Number(new URL(server.url).port)
  const ca = readFileSync(join(other, 'network', 'authority.crt'))
  expect((await asked(askSecurely, port, '/api/me', { ca })).status).toBe(200)
  // Nothing is offered to trust.
  expect((await asked(askPlain, port, '/frustum-authority.crt')).status).toBe(302)
  expect(server.lan?.authority).toBeNull()
})
