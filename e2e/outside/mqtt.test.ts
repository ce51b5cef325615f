import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import type { ConnectionSettings, Mapping } from '@frustum/contract'
import { describe, expect, it, onTestFinished } from 'vitest'
import { followed } from '../../lab/src/fixtures/followed.ts'
import { sensorAt } from '../../lab/src/fixtures/sensorAt.ts'
import { LineProblem } from '../../server/src/devices/lineProblem.ts'
import { freePort } from '../support/freePort.ts'
import { program, said, started } from './programs.ts'

setFlagsFromString('--expose-gc')
const collectGarbage = runInNewContext('gc') as () => void

/** Against mosquitto, a broker of others, with its own client. */

const USER = 'frustum'
const PASSWORD = 'pa:ss wörd'

function folderOf(): string {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-broker-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A certificate of an authority of its own, for this machine's address. */
async function certificates(folder: string) {
  const at = (name: string) => join(folder, name)
  const openssl = (line: string) => said('openssl', line.split(' '))
  const subject = '-subj /CN=127.0.0.1 -days 2 -nodes -newkey rsa:2048'
  await openssl(
    `req -x509 ${subject} -keyout ${at('ca.key')} -out ${at('ca.crt')} -addext basicConstraints=critical,CA:TRUE`,
  )
  await openssl(`req ${subject.replace('-days 2 ', '')} -keyout ${at('own.key')} -out ${at('own.csr')}`)
  writeFileSync(at('names'), 'subjectAltName=IP:127.0.0.1')
  await openssl(
    `x509 -req -in ${at('own.csr')} -CA ${at('ca.crt')} -CAkey ${at('ca.key')} -CAcreateserial -days 2 -extfile ${at('names')} -out ${at('own.crt')}`,
  )
  return readFileSync(at('ca.crt'), 'utf8')
}

async function broker({ tls = false, password = false } = {}) {
  const folder = folderOf()
  const port = await freePort()
  const authority = tls ? await certificates(folder) : undefined
  if (password) await said('mosquitto_passwd', ['-b', '-c', join(folder, 'people'), USER, PASSWORD])
  const lines = [
    'user root',
    `listener ${port} 127.0.0.1`,
    `allow_anonymous ${!password}`,
    'max_queued_messages 100000',
    ...(password ? [`password_file ${join(folder, 'people')}`] : []),
    ...(tls ? [`certfile ${join(folder, 'own.crt')}`, `keyfile ${join(folder, 'own.key')}`] : []),
  ]
  writeFileSync(join(folder, 'conf'), lines.join('\n'))
  const begin = () => started('mosquitto', ['-v', '-c', join(folder, 'conf')], (text) => /running/.test(text))
  const child = await begin()
  const client = [
    ...['-h', '127.0.0.1', '-p', String(port)],
    ...(password ? ['-u', USER, '-P', PASSWORD] : []),
    ...(tls ? ['--cafile', join(folder, 'ca.crt')] : []),
  ]
  const publish = (topic: string, message: string, ...more: string[]) =>
    said('mosquitto_pub', [...client, '-V', 'mqttv5', '-t', topic, '-m', message, ...more])
  const settings: ConnectionSettings = { host: '127.0.0.1', port, ...(tls ? { tls, authority } : {}) }
  return { child, begin, client, publish, settings }
}

const field = (name: string, topic?: string) => ({
  at: { field: name, ...(topic ? { topic } : {}) },
  unit: '',
  scale: 1,
  offset: 0,
})
const JSON_MAPPING: Mapping = {
  countsFrom: 0,
  format: 'json',
  value: field('/ph'),
  temperature: field('/water/temp'),
  status: { at: { topic: 'tank/1/state', field: '' }, values: ['offline'] },
}

const monitor = (id: number, topic: string, mapping = JSON_MAPPING) => ({
  ...sensorAt(id, { mapping }),
  address: { topic },
})

async function follow(settings: ConnectionSettings, secret: string | null = null) {
  const line = followed({ protocol: 'mqtt', settings, secret })
  line.driver.follow([monitor(1, 'tank/1')])
  return line
}

describe('a broker', () => {
  it.each([
    ['3.1.1', false, false],
    ['5', true, true],
  ] as const)('of MQTT %s, encrypted: %s, with a password: %s', async (version, tls, password) => {
    const { publish, settings } = await broker({ tls, password })
    const who: ConnectionSettings = password ? { user: USER } : {}
    const { driver, next } = await follow({ ...settings, version, ...who }, password ? PASSWORD : null)
    await expect.poll(() => driver.state().kind, { timeout: 10_000 }).toBe('up')
    const coming = next(1)
    await publish('tank/1', '{"ph":8.13,"water":{"temp":"24.6"}}')
    expect(await coming).toMatchObject({ shown: 8.13, temperature: 24.6, signal: null })
    expect(driver.raw(1)).toContainEqual(expect.objectContaining({ channel: 'value', raw: '8.13', value: 8.13 }))
    expect(JSON.stringify(driver.exchanges.list())).not.toContain(PASSWORD)
    if (!password) return
    const refused = await follow({ ...settings, version, ...who }, 'wrong')
    await expect.poll(() => refused.driver.state().why, { timeout: 10_000 }).toContain('does not let this user in')
    const { authority, ...unsigned } = settings
    const unbelieved = await follow({ ...unsigned, version, ...who }, PASSWORD)
    await expect.poll(() => unbelieved.driver.state().why, { timeout: 10_000 }).toContain('is not believed')
  })

  it('that keeps old messages: they are no readings, unless they say of when they are', async () => {
    const { publish, settings } = await broker()
    await publish('tank/1', '{"ph":7,"water":{"temp":20}}', '-r')
    const time = new Date(Date.now() - 5000).toISOString()
    await publish('tank/2', `{"ph":7.5,"at":"${time}"}`, '-r')
    const line = await follow(settings)
    const timed: Mapping = { countsFrom: 0, format: 'json', time: { field: '/at' }, value: field('/ph') }
    line.driver.follow([monitor(1, 'tank/1'), monitor(2, 'tank/2', timed)])
    expect(await line.next(2)).toMatchObject({ shown: 7.5, at: Date.parse(time) })
    expect(line.heard(1)).toEqual([])
    const coming = line.next(1)
    await publish('tank/1', '{"ph":7.01,"water":{"temp":20}}')
    expect((await coming).shown).toBe(7.01)
  })

  it('that says the last will of a device: it is blind until it is back', async () => {
    const { publish, client, settings } = await broker()
    const { driver, heard } = await follow(settings)
    await expect.poll(() => driver.state().kind, { timeout: 10_000 }).toBe('up')
    const will = ['--will-topic', 'tank/1/state', '--will-payload', 'offline', '--will-retain']
    const device = spawn(program('mosquitto_sub'), [...client, ...will, '-t', 'none', '-k', '60'])
    onTestFinished(() => void device.kill('SIGKILL'))
    await publish('tank/1/state', 'online', '-r')
    await publish('tank/1', '{"ph":8,"water":{"temp":20}}')
    await expect.poll(() => heard(1).length, { timeout: 10_000 }).toBe(1)
    // Ended without a word: nobody says goodbye for it but the broker.
    const gone = () => {
      device.kill('SIGKILL')
      return String(heard(1).at(-1))
    }
    await expect.poll(gone, { timeout: 10_000 }).toContain('its status is offline')
    // It says nothing of being back, but speaks.
    await publish('tank/1', '{"ph":8.01,"water":{"temp":20}}')
    await expect.poll(() => heard(1).at(-1), { timeout: 10_000 }).toMatchObject({ shown: 8.01 })
  })

  it('that goes and comes back, and one that sends what nobody can read', async () => {
    const { child, begin, publish, settings } = await broker()
    const { driver, heard } = await follow(settings)
    await expect.poll(() => driver.state().kind, { timeout: 10_000 }).toBe('up')
    child.removeAllListeners('exit')
    child.kill('SIGKILL')
    await expect.poll(() => String(heard(1).at(-1)), { timeout: 10_000 }).toContain('cannot be reached')
    await begin()
    await expect.poll(() => driver.state().kind, { timeout: 20_000 }).toBe('up')
    for (const [bad, why] of [
      ['{"ph":', 'not readable JSON'],
      ['{"ph":"out"}', 'holds no number'],
      ['{"other":1}', 'did not come'],
    ] as const) {
      await publish('tank/1', bad)
      await expect.poll(() => String(heard(1).at(-1)), { timeout: 10_000 }).toContain(why)
      // Tried at that moment it is said, too.
      expect(await driver.tryOnce(monitor(1, 'tank/1'))).toMatchObject({ reading: null })
    }
    const headless = monitor(1, 'tank/1', { ...JSON_MAPPING, format: 'csv' })
    await publish('tank/1', '8.1;22')
    const tried = await driver.tryOnce(headless)
    expect([tried.reading, tried.why]).toEqual([null, expect.stringMatching(/./)])
    const large = join(folderOf(), 'large')
    writeFileSync(large, Buffer.alloc(10_000_000, '7'))
    await said('mosquitto_pub', [...['-h', '127.0.0.1', '-p', String(settings.port)], '-t', 'tank/1', '-f', large])
    await expect.poll(() => String(heard(1).at(-1)), { timeout: 20_000 }).toContain('10000000 bytes')
    expect(heard(1).every((one) => one instanceof LineProblem)).toBe(true)
    await publish('tank/1', '{"ph":8.02,"water":{"temp":20}}')
    await expect.poll(() => heard(1).at(-1), { timeout: 10_000 }).toMatchObject({ shown: 8.02 })
  })

  it('that speaks ten thousand times a second: the newest is heard, and no more is kept', async () => {
    const { client, publish, settings } = await broker()
    const line = await follow(settings)
    line.driver.follow([monitor(1, 'tank/1'), monitor(2, 'tank/2')])
    await expect.poll(() => line.driver.state().kind, { timeout: 10_000 }).toBe('up')
    collectGarbage()
    const before = process.memoryUsage().heapUsed
    const flood = spawn(program('mosquitto_pub'), [...client, '-t', 'tank/1', '-l', '-q', '0'])
    onTestFinished(() => void flood.kill('SIGKILL'))
    flood.stdin.on('error', () => undefined)
    const began = performance.now()
    const COUNT = process.env.FRUSTUM_SOAK ? 300_000 : 30_000
    for (let i = 1; i <= COUNT; i += 1000) {
      const lines = Array.from({ length: 1000 }, (_, k) => `{"ph":${(i + k) / 1e5},"water":{"temp":20}}`).join('\n')
      await new Promise<void>((resolve) => flood.stdin.write(`${lines}\n`, () => resolve()))
      if (i % 5000 === 1) {
        // The other topic is heard meanwhile.
        const coming = line.next(2)
        await publish('tank/2', '{"ph":7.5,"water":{"temp":20}}')
        expect((await coming).shown).toBe(7.5)
      }
    }
    flood.stdin.end()
    await expect.poll(() => line.heard(1).at(-1), { timeout: 60_000 }).toMatchObject({ shown: COUNT / 1e5 })
    const seconds = (performance.now() - began) / 1000
    // At most so often as a line is listened to, whatever comes.
    expect(line.heard(1).length).toBeLessThan(22 * seconds + 20)
    // What nobody holds any more is no memory: it is collected first, however busy the machine is.
    collectGarbage()
    expect(process.memoryUsage().heapUsed - before).toBeLessThan(50e6)
  })
})
