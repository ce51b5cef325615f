import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { procedureOf, reduceVisit, type Setup, USUAL_PRACTICES, type VisitEntry } from '@frustum/core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { makeDatabase0003 } from '../../../lab/src/fixtures/database0003.ts'
import { floatMap } from '../devices/protocols/modbus/scheme.ts'
import { readEntry } from './entryVersions.ts'
import { type OpenDatabase, openDatabaseIn } from './open.ts'

/** A database of the oldest version that can be upgraded: nothing of it may be lost, and its tables are as new ones. */

const ID = 'a0e6a0e6-1111-4222-8333-444455556666'
const NEWEST = 'b0e6a0e6-1111-4222-8333-444455556666'
const folder = mkdtempSync(join(tmpdir(), 'frustum-upgrade-'))

let open: OpenDatabase
beforeAll(async () => {
  const old = await makeDatabase0003(join(folder, 'database'))
  // Two visits that were started at the same moment: that was possible then.
  await old.exec(`insert into visits (id, installation_id, procedure, settings, operator, started_at)
    values ('${NEWEST}', 1, 'ph-check', '{"standards": {}, "opening": {}}', 'S. Osk', '2026-02-02')`)
  await old.close()
  open = await openDatabaseIn(folder)
})
afterAll(async () => {
  await open.close()
  rmSync(folder, { recursive: true })
})

const rows = async <T>(query: string) => (await open.db.$client.query<T>(query)).rows

it('keeps calibrations, readings, devices and what cleaning moved', async () => {
  expect(await rows('select characteristic, uncertainty, baseline from calibrations')).toEqual([
    {
      characteristic: { zero: 3.1, slopeEfficiency: 0.97 },
      uncertainty: { zero: 0.8, slopeEfficiency: 0.01 },
      baseline: false,
    },
  ])
  expect(await rows('select shown, signal, temperature from readings')).toEqual([
    { shown: 8.12, signal: -66, temperature: 25 },
  ])
  expect(await rows('select shows, setting from devices')).toEqual([{ shows: 'signal', setting: {} }])
  // 5.8 mV of dirt made it read 0.1 pH too low.
  expect((await rows<{ fouling: number }>('select fouling from drift_observations'))[0]?.fouling).toBeCloseTo(-0.1, 6)
})

it('keeps an open visit at its step, with every reading', async () => {
  const [visit] = await rows<{ procedure: string; settings: Record<string, unknown> }>(
    `select * from visits where id = '${ID}'`,
  )
  expect(visit).toMatchObject({
    procedure: 'ph-check',
    settings: { standards: { first: 'pH7.00', second: 'pH10.01' }, opening: {} },
  })
  const entries = await rows<{ at: string; entry: unknown }>(
    `select at, entry from visit_entries where visit_id = '${ID}' and entry->>'type' <> 'abandoned' order by seq`,
  )
  const setup = {
    kind: 'ph',
    activeCalibration: { zero: 0, slopeEfficiency: 1 },
    standards: { first: { code: 'pH7.00', lot: null }, second: { code: 'pH10.01', lot: null } },
    practices: USUAL_PRACTICES,
    device: {},
    shows: 'signal',
  } as unknown as Setup
  const lines = entries.map(({ at, entry }) => ({
    at: Date.parse(at),
    entry: (readEntry(entry) as { entry: VisitEntry }).entry,
  }))
  const progress = reduceVisit(procedureOf('ph-check'), setup, 0, lines)
  expect(progress.current?.key).toBe('verify')
  expect(progress.evidence.readings['point-1']?.signal).toBe(3)
  expect(progress.evidence.readings['point-2']).toMatchObject({ signal: -168, signalUncertainty: 0.9 })
  expect(progress.evidence.readings['found-standard']?.standard?.lot).toBe('7-1')
  expect(progress.evidence.applied).toMatchObject({
    characteristic: { slopeEfficiency: 0.97, zero: 3.1 },
    way: 'keyed',
    shownAfter: { value: 7.02, unit: '', should: null },
  })
})

it('continues the newest of two visits that were started at once, and ends the other with a reason', async () => {
  expect(await rows('select id, outcome, closed_at is null as open from visits order by started_at')).toEqual([
    { id: ID, outcome: 'abandoned', open: false },
    { id: NEWEST, outcome: null, open: true },
  ])
  expect(await rows(`select entry from visit_entries where visit_id = '${ID}' order by seq desc limit 1`)).toEqual([
    { entry: { type: 'abandoned', reason: 'Begun twice at once; the other visit goes on.' } },
  ])
  await expect(
    open.db.$client.query(`insert into visits (id, installation_id, procedure, settings, operator, started_at)
      values (gen_random_uuid(), 1, 'ph-check', '{}', 'S. Osk', now())`),
  ).rejects.toThrow('one_open_visit')
})

it('makes a connection and a mapping of what was stored with the device', async () => {
  expect(await rows('select name, protocol, settings from connections')).toEqual([
    { name: 'Modbus at 192.168.7.5:502', protocol: 'modbus-tcp', settings: { host: '192.168.7.5', port: 502 } },
  ])
  expect(await rows('select connection_id, address from devices')).toEqual([{ connection_id: 1, address: { unit: 7 } }])
  expect(await rows('select mapping from positions')).toEqual([{ mapping: floatMap('ph', true) }])
})

it('has the same columns, indexes and constraints as a new database', async () => {
  const other = join(folder, 'new')
  const fresh = await openDatabaseIn(other)
  const catalog = async ({ db: { $client } }: OpenDatabase) => {
    const [columns, indexes, constraints] = await Promise.all(
      [
        `select table_name, column_name, udt_name, is_nullable, column_default from information_schema.columns
          where table_schema = 'public' order by 1, 2`,
        "select indexdef from pg_indexes where schemaname = 'public' order by 1",
        `select conrelid::regclass::text as of, conname, pg_get_constraintdef(oid) as is from pg_constraint
          where connamespace = 'public'::regnamespace order by 1, 2`,
      ].map((query) => $client.query<Record<string, unknown>>(query)),
    )
    return { columns: columns?.rows, indexes: indexes?.rows, constraints: constraints?.rows }
  }
  const [upgraded, made] = [await catalog(open), await catalog(fresh)]
  await fresh.close()
  expect(made.columns?.length).toBeGreaterThan(400)
  expect(upgraded).toEqual(made)
})

it('is not upgraded twice', async () => {
  await open.close()
  open = await openDatabaseIn(folder)
  expect(await rows('select count(*)::int as made from drizzle.__drizzle_migrations')).toEqual([{ made: 2 }])
})
