import { createHash } from 'node:crypto'
import type { ImportReport, LedgerRow, RigView, TakenFile } from '@frustum/contract'
import { expect, it } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** Files that are far too long, or are no files at all: refused, and nobody else waits or falls. */

const HEAD = '{"format":"frustum-records","version":2,"site":{"name":"Mill","timeZone":"UTC"},"removals":[],"visits":['
const many = (element: string, times: number) => Buffer.alloc((element.length + 1) * times - 1, `${element},`)

it('whatever is sent as a file is refused in one sentence, and the server goes on', async () => {
  const { url, get } = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient')
  const send = async (path: string, body: Uint8Array<ArrayBuffer>) => {
    const answer = await fetch(`${url()}/api/${path}?${new URLSearchParams({ operator })}`, { method: 'POST', body })
    return { status: answer.status, message: ((await answer.json()) as { message: string }).message }
  }
  const times = heavy(600_000, 30_000_000)
  const cases: [string, Uint8Array<ArrayBuffer>, RegExp][] = [
    [
      'ledger/import',
      Buffer.concat([Buffer.from(HEAD), many('{}', times), Buffer.from(']}')]),
      /more than 100000 visits/,
    ],
    ['ledger/import', Buffer.concat([Buffer.from(HEAD), many('{}', 50), Buffer.from(']}')]), /missing/],
    ['ledger/import', Buffer.from(`{"site":${'['.repeat(times / 10)}`), /ends before its end|too large/],
    [
      'ledger/import',
      Buffer.concat([Buffer.from('{"removals":['), many('{}', times), Buffer.from(']}')]),
      /too large|no file|missing/,
    ],
    ['ledger/import', Buffer.from('\u0000\u0001'), /no JSON/],
    ['ledger/import', Buffer.from('[]'), /missing/],
    [
      'bring/set-up',
      Buffer.concat([Buffer.from('{"places":['), many('{}', times / 10), Buffer.from(']}')]),
      /more than 20000 places/,
    ],
    ['bring/set-up', Buffer.from('{"places":7}'), /places is no list/],
    ['bring/set-up', Buffer.from('nothing'), /no JSON/],
  ]
  for (const [path, body, why] of cases) {
    let done = false
    const answer = send(path, body).finally(() => {
      done = true
    })
    while (!done) {
      expect((await fetch(`${url()}/api/site`)).status).toBe(200)
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    const { status, message } = await answer
    expect([path, status]).toEqual([path, 400])
    expect(message).toMatch(why)
  }
  expect((await get<RigView>('rig')).positions).toHaveLength(1)
})

it('a file of records is looked at first, and twice it changes nothing', async () => {
  const from = await ownSite('Code;Type;Place;Water\nT1-pH;pH;Fish room;nutrient')
  const log = 'Date;Tag;pH 7 before;pH 10 before;pH 7 after;Temp\n23.04.2025;T1-pH;7.02;9.97;7.00;25'
  expect((await from.bring(log, { take: true })).body.taken).toBe(1)
  const file = Buffer.from(await (await fetch(`${from.url()}/api/ledger/export.json`)).arrayBuffer())
  const to = await ownSite('')
  await to.ask('site/set-up', { name: 'Copy', person: operator, timeZone: 'UTC' })
  const send = async (take: boolean) => {
    const query = new URLSearchParams({ operator, name: 'records.json', take: String(take) })
    const answer = await fetch(`${to.url()}/api/ledger/import?${query}`, { method: 'POST', body: file })
    return (await answer.json()) as ImportReport
  }
  expect(await send(false)).toEqual({ added: 1, known: 0, refused: [] })
  expect(await to.get<LedgerRow[]>('ledger')).toEqual([])
  expect((await to.get<RigView>('rig')).positions).toEqual([])
  expect(await send(true)).toEqual({ added: 1, known: 0, refused: [] })
  expect(await send(true)).toEqual({ added: 0, known: 1, refused: [] })
  // What became of each file is kept.
  const taken = await to.get<TakenFile[]>('bring/taken')
  expect(taken.map((t) => [t.what, t.fileName, t.operator, t.counts['taken in']])).toEqual([
    ['records', 'records.json', operator, 0],
    ['records', 'records.json', operator, 1],
  ])
  const [listed] = await from.get<TakenFile[]>('bring/taken')
  const report = await (await fetch(`${from.url()}/api/bring/taken/${listed?.id}.csv`)).text()
  expect(report).toContain('row,code,state,what\r\n2,T1-pH,new,')
  expect(report).toContain(`SHA-256 of the file,${createHash('sha256').update(log).digest('hex')}`)
  expect((await fetch(`${from.url()}/api/bring/taken/999.csv`)).status).toBe(404)
  const back = Buffer.from(await (await fetch(`${to.url()}/api/ledger/export.json`)).arrayBuffer())
  const visitsOf = (bytes: Buffer) => JSON.stringify((JSON.parse(bytes.toString()) as { visits: unknown }).visits)
  const hash = (text: string) => createHash('sha256').update(text).digest('hex')
  expect(hash(visitsOf(back))).toBe(hash(visitsOf(file)))
})
