import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ImportReport, LedgerRow, RecordView, VisitView } from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openStation, type Station } from '../support/station.ts'

/** A record that is closed stays what it was, whatever is changed at the site afterwards. */

const folder = mkdtempSync(join(tmpdir(), 'frustum-records-'))
const options = { folder, sensors: ['CH-pH-4', 'BR-EC-1'] }
const asker = { clientId: randomUUID(), operator: 'S. Osk' }
let station: Station
beforeAll(async () => {
  station = await openStation(options)
})
afterAll(async () => {
  await station.stop()
  rmSync(folder, { recursive: true, force: true })
})

const text = async (path: string) => (await fetch(station.url + path)).text()
const get = async <T>(path: string) => JSON.parse(await text(path)) as T
const post = async <T>(path: string, body: object) => {
  const answer = await fetch(station.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })
  const answered = (await answer.json()) as T
  expect(answer.ok, JSON.stringify(answered)).toBe(true)
  return answered
}

async function checkByHand(): Promise<VisitView> {
  let visit = await post<VisitView>('/api/visits', {
    ...asker,
    position: 'CH-pH-4',
    procedure: 'ph-check',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  })
  const act = async (action: string, body: object) => {
    visit = await post<VisitView>(`/api/visits/${visit.id}/${action}`, { ...asker, ...body })
  }
  const read = async (step: string, value: string) => {
    await act('typed', { step, value, temperature: '22' })
    await act('capture', { step, earlyReason: 'Testing' })
  }
  await act('done', { step: 'hold' })
  await read('found-process', '8.05')
  await read('found-standard', '7.12')
  const decision = visit.result?.proposal.decision
  expect(decision).toBe('adjust')
  await act('decide', { step: 'verdict', decision: 'leave-alone', note: 'Next week' })
  while (visit.now) {
    if (visit.now.kind === 'capture') await read(visit.now.key, '8.05')
    else await act('done', { step: visit.now.key })
  }
  return visit
}

/** All that a site says of its closed visits, as bytes. */
async function everyRecord(): Promise<Record<string, string>> {
  const rows = await get<LedgerRow[]>('/api/ledger')
  const { visits } = await get<{ visits: { id: string }[] }>('/api/ledger/export.json')
  expect(visits.length).toBe(rows.length)
  const pages = await Promise.all(rows.map(async ({ id }) => [id, await text(`/api/ledger/${id}`)]))
  return {
    ...Object.fromEntries(pages),
    rows: JSON.stringify(rows),
    ...Object.fromEntries(visits.map((v) => [`file ${v.id}`, JSON.stringify(v)])),
    csv: await text('/api/ledger/export.csv'),
  }
}

/** Another value for every column of what may be changed at a site; keys and kinds are not. */
const CHANGED: Record<string, string> = {
  text: `%c || ' changed'`,
  'double precision': '%c * 1.5 + 1',
  integer: '%c + 3',
  boolean: 'not %c',
  'timestamp with time zone': `%c - interval '90 days'`,
}
const MAY_CHANGE = ['sites', 'operators', 'places', 'positions', 'devices', 'sensors', 'solution_lots', 'installations']
const KEYS = /(^id|_id|^kind|^shows|^method|^check_first|^standard|^removed_at|^calendar_token)$/

async function changeEverything(): Promise<string[]> {
  await station.stop()
  const { db, close } = await openDatabaseIn(folder)
  const changed: string[] = []
  for (const table of MAY_CHANGE) {
    const { rows } = await db.$client.query<{ column_name: string; data_type: string }>(
      'select column_name, data_type from information_schema.columns where table_name = $1',
      [table],
    )
    for (const { column_name: column, data_type: type } of rows) {
      const change = CHANGED[type]
      if (!change || KEYS.test(column)) continue
      await db.$client.query(`update ${table} set ${column} = ${change.replaceAll('%c', column)}`)
      changed.push(`${table}.${column}`)
    }
  }
  await db.$client.query(`update positions set cautions = '["Changed"]', reliability = 0.8`)
  await db.$client.query(`update devices set shows = 'signal', setting = '{"compensation": {"law": "none"}}'`)
  await db.$client.query(`update solution_lots set own_table = '{"temperatures": [0, 50], "values": [7.5, 7.5]}'`)
  // Other numbers in the devices, other readings before, and other ways of working, all of them long ago.
  await db.$client.query(`insert into calibrations (installation_id, at, characteristic, uncertainty, adopted)
    select id, now() - interval '1 year', '{"zero": 30, "slopeEfficiency": 0.8, "cellFactor": 1.3}', '{}', true from installations`)
  await db.$client.query(`insert into device_numbers (installation_id, at, held, given)
    select id, now() - interval '1 minute', '{"zero": 9, "slopeEfficiency": 0.7}', '{"zero": 0, "slopeEfficiency": 1}' from installations`)
  await db.$client.query(`insert into school_choices (at, operator, schools)
    values (now() - interval '2 years', 'S. Osk', '{"order": "far-first", "dry": "shake", "stillness": "flat"}')`)
  await db.$client.query('delete from solution_uses')
  // Who may read the records is another matter.
  await db.$client.query('update sites set sign_in = false')
  await close()
  station = await openStation(options)
  return changed
}

it('a check by hand stores what it was judged with, and what was said when it was decided', async () => {
  const { id } = await checkByHand()
  const { known, record, ...heading } = await get<RecordView>(`/api/ledger/${id}`)
  expect(known).toBe('at its start')
  expect(heading).toMatchObject({
    quantity: 'pH',
    tolerance: { value: 0.1, unit: 'pH' },
    verdict: 'out of tolerance',
    device: expect.stringMatching(/./),
  })
  expect(record).toMatchObject({ work: 'checked', procedureName: 'Check only' })
  const file = await get<{ visits: { snapshot: { setup: object }; entries: { assessment?: Said }[] }[] }>(
    `/api/ledger/export.json?visit=${id}`,
  )
  const said = file.visits[0]?.entries.flatMap((e) => e.assessment ?? []) ?? []
  expect(said).toHaveLength(1)
  expect(said[0]?.assessment.proposal.decision).toBe('adjust')
  expect(said[0]?.assessment.asFoundError).toBeGreaterThan(0.05)
  expect(said[0]?.text.reason).toMatch(/^It reads pH\s7\.12 where pH\s7\.01 is right; your limit is/)
})

interface Said {
  assessment: { proposal: { decision: string }; asFoundError: number }
  text: { reason: string }
}

it('records of the first version are taken in, replayed and exported as they were written', async () => {
  const file = JSON.parse(
    readFileSync(new URL('../fixtures/records-version-1.json', import.meta.url), 'utf8'),
  ) as Exported
  expect(await post<ImportReport>('/api/ledger/import', file)).toEqual({ added: 2, known: 0, refused: [] })
  const [calibrated, checked] = file.visits as [ExportedVisit, ExportedVisit]
  const first = await get<RecordView>(`/api/ledger/${calibrated.id}`)
  expect(first).toMatchObject({ known: 'later', position: 'CH-pH-4', record: { work: 'adjusted' } })
  expect(first.record.lines).toHaveLength(calibrated.entries.length)
  expect(first.record.result?.findings).toBeDefined()
  // Nothing says which of the two was read then, so neither is claimed.
  expect(Object.values(first.readings).every((r) => r.source === 'not-noted')).toBe(true)
  expect(first.record.asLeft?.value).toBeCloseTo((calibrated.observations[0] as { asLeft: number }).asLeft, 6)
  expect((await get<RecordView>(`/api/ledger/${checked.id}`)).record.work).toBe('checked')
  const again = await get<Exported>(`/api/ledger/export.json?visit=${calibrated.id}`)
  const lines = again.visits[0]?.entries.map(({ assessment: _, ...line }) => line)
  expect(lines).toEqual(calibrated.entries)
  expect(await text(`/api/ledger/export.csv?visit=${calibrated.id}`)).toMatch(/,not-noted,/)
  // Taken in once more, in the old form and in the new one: known.
  expect(await post<ImportReport>('/api/ledger/import', file)).toEqual({ added: 0, known: 2, refused: [] })
  expect(await post<ImportReport>('/api/ledger/import', again)).toEqual({ added: 0, known: 1, refused: [] })
})

it('after everything at the site is changed, every closed record is the same to the byte', async () => {
  const before = await everyRecord()
  expect(Object.keys(before).length).toBeGreaterThan(20)
  const changed = await changeEverything()
  expect(changed).toEqual(
    expect.arrayContaining(['positions.tolerance', 'positions.code', 'sites.time_zone', 'solution_lots.lot']),
  )
  const after = await everyRecord()
  expect(Object.keys(after)).toEqual(Object.keys(before))
  for (const [name, bytes] of Object.entries(before)) expect(after[name], name).toBe(bytes)
})

interface ExportedVisit {
  id: string
  entries: { assessment?: object }[]
  observations: object[]
}
interface Exported {
  visits: ExportedVisit[]
}
