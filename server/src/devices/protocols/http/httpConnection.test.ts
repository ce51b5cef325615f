import { createServer, type RequestListener } from 'node:http'
import { createServer as createTcpServer } from 'node:net'
import type { ConnectionSettings, Mapping } from '@frustum/contract'
import { describe, expect, it, onTestFinished } from 'vitest'
import { followed } from '../../../../../lab/src/fixtures/followed.ts'
import { sensorAt } from '../../../../../lab/src/fixtures/sensorAt.ts'
import { devicesOnly, lookUpPermitted, type Permits, servicesOnly } from '../../../outbound.ts'
import { LineProblem } from '../../lineProblem.ts'
import { fetchPage, pageUrl } from './fetchPage.ts'

const MAPPING: Mapping = {
  countsFrom: 0,
  format: 'json',
  value: { at: { field: '/ph' }, unit: '', scale: 1, offset: 0 },
}

async function site(answer: RequestListener): Promise<string> {
  const server = createServer(answer)
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  onTestFinished(() => {
    server.closeAllConnections()
    server.close()
  })
  return `http://127.0.0.1:${(server.address() as { port: number }).port}`
}

const fetched = (settings: ConnectionSettings, path = '', secret: string | null = null) =>
  fetchPage({ protocol: 'http', settings, secret }, path, new AbortController().signal)

describe('a page', () => {
  it('is fetched by whoever signs in, below its own address', async () => {
    const url = await site((req, res) => {
      const { authorization } = req.headers
      const known = ['Basic b3A6cMOkc3M=', 'Bearer t0ken'].includes(authorization ?? '')
      res.writeHead(known ? 200 : 401).end(`${req.url}`)
    })
    expect((await fetched({ url: `${url}/base/`, auth: 'basic', user: 'op' }, 'ph?x=1', 'päss')).text).toBe(
      '/base/ph?x=1',
    )
    expect((await fetched({ url, auth: 'bearer' }, '', 't0ken')).text).toBe('/')
    const refused = fetched({ url, auth: 'bearer' }, '', 'wrong')
    await expect(refused).rejects.toThrow('does not let this user in')
    await expect(refused).rejects.not.toThrow('wrong')
    for (const path of ['//far.example/x', '/\\far.example', '..//far.example', '@far.example'])
      expect(pageUrl('http://127.0.0.1:1/base', path).host).toBe('127.0.0.1:1')
  })

  it('is followed within its host and nowhere else', async () => {
    const other = await site((_req, res) => res.end('secret of another'))
    const url = await site((req, res) => {
      const to = { '/near': '/there', '/far': `${other}/there`, '/loop': '/loop' }[req.url ?? '']
      if (to) res.writeHead(302, { location: to }).end()
      else res.end('7.25')
    })
    expect((await fetched({ url }, 'near')).text).toBe('7.25')
    await expect(fetched({ url }, 'far')).rejects.toThrow('which is not followed')
    await expect(fetched({ url }, 'loop')).rejects.toThrow('on and on')
  })

  it.each([
    ...['http://93.184.215.14/', 'http://[2606:2800:21f::1]/', 'http://0.0.0.0/', 'http://224.0.0.1/'],
    ...['http://169.254.169.254/', 'http://[fe80::1]/', 'http://100.64.0.1/', 'http://[::ffff:169.254.169.254]/'],
  ])('at %s is not read', async (url) => {
    await expect(fetched({ url })).rejects.toThrow("isn't a permitted address")
  })

  it('at a link-local address is read once a lead allowed it, and a webhook never goes there', () => {
    const linkLocal = ['169.254.1.2', 'fe80::1', '100.64.0.1']
    expect(linkLocal.map(devicesOnly(true))).toEqual([true, true, true])
    expect(['192.168.1.4', '127.0.0.1', 'fd00::1'].map(devicesOnly(false))).toEqual([true, true, true])
    expect([...linkLocal, '0.0.0.0', '224.0.0.1', 'nowhere'].map(servicesOnly)).toEqual(Array(6).fill(false))
    expect(['192.168.1.4', '93.184.215.14'].map(servicesOnly)).toEqual([true, true])
  })

  it('is looked up when it connects: a name for a refused address is refused', async () => {
    const looked = (permits: Permits) =>
      new Promise((resolve) =>
        lookUpPermitted(permits)('localhost', {}, (error, address) => resolve(error ? error.message : address)),
      )
    expect(await looked((address) => address === '127.0.0.1')).toBe('127.0.0.1')
    expect(await looked(() => false)).toBe('address not permitted')
  })

  it('is refused where it is too large, too slow, broken off, or no HTTP', async () => {
    const large = await site((_req, res) => {
      const chunk = Buffer.alloc(100_000, 'x')
      const more = () => {
        while (!res.destroyed && res.write(chunk));
      }
      res.on('drain', more)
      more()
    })
    const before = process.memoryUsage().rss
    await expect(fetched({ url: large })).rejects.toThrow('larger than 1 MB')
    expect(process.memoryUsage().rss - before).toBeLessThan(100e6)
    const slow = await site((_req, res) => void res.write('{"ph":'))
    await expect(fetched({ url: slow, answerMs: 200 })).rejects.toThrow('within 200 ms')
    const cut = await site((_req, res) => {
      res.writeHead(200, { 'content-length': '100' }).write('{')
      setTimeout(() => res.destroy(), 20)
    })
    await expect(fetched({ url: cut })).rejects.toThrow(LineProblem)
    const garbage = createTcpServer((socket) => {
      socket.on('error', () => undefined)
      socket.end('\x00\x01 nothing of the kind\r\n\r\n')
    })
    await new Promise<void>((resolve) => garbage.listen(0, '127.0.0.1', resolve))
    onTestFinished(() => void garbage.close())
    const { port } = garbage.address() as { port: number }
    await expect(fetched({ url: `http://127.0.0.1:${port}` })).rejects.toThrow('is no HTTP')
    await expect(fetched({ url: 'http://127.0.0.1:9' })).rejects.toThrow('Nothing listens')
  })
})

it('pages are read each in their own time, and what is wrong with one is said of it alone', async () => {
  const url = await site((req, res) => {
    if (req.url === '/slow') return
    res.end(req.url === '/bad' ? '<ph>' : '{"ph":7.25}')
  })
  const { driver, heard, next } = followed({ protocol: 'http', settings: { url, everyMs: 100, answerMs: 400 } })
  const device = (id: number, path: string) => ({ ...sensorAt(id, { mapping: MAPPING }), address: { path } })
  driver.follow([device(1, 'good'), device(2, 'slow'), device(3, 'bad')])
  expect((await next(1)).shown).toBe(7.25)
  await expect.poll(() => heard(2).length).toBeGreaterThan(0)
  expect(String(heard(2)[0])).toContain('does not answer within 400 ms')
  expect(String(heard(3)[0])).toContain('not readable JSON')
  await expect.poll(() => heard(1).length).toBeGreaterThan(5)
  expect(heard(1).every((one) => !(one instanceof LineProblem))).toBe(true)
  expect(driver.state().kind).toBe('up')
  const tried = await driver.tryOnce(device(4, 'good'))
  expect(tried).toMatchObject({ why: null, reading: { shown: 7.25, signal: null, temperature: null } })
  expect(driver.exchanges.list()[0]).toMatchObject({ words: 'fetches good', failed: false })
})
