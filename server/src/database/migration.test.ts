import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { PGlite } from '@electric-sql/pglite'
import { procedureOf, type RecordLine, reduceVisit, type Setup, USUAL_PRACTICES } from '@frustum/core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { floatMap } from '../devices/protocols/modbus/scheme.ts'

/** A database of the first version, as it was written then: nothing of it may be lost by what came later. */

const sql = (name: string, type = 'sql') =>
  readFileSync(fileURLToPath(new URL(`../../migrations/${name}.${type}`, import.meta.url)), 'utf8')
const ID = 'a0e6a0e6-1111-4222-8333-444455556666'
const reading = (millivolts: number, code?: string) => ({
  millivolts,
  millivoltsUncertainty: 0.9,
  temperature: 22,
  shown: 7.1,
  stability: { state: 'stable', reason: 'known', seconds: 61, confidence: 97 },
  trace: [[0, millivolts]],
  signature: null,
  ...(code
    ? {
        standard: {
          code,
          value: code === 'pH7.00' ? 7.012 : 10.04,
          lot: '7-1',
          expired: false,
          openTooLong: false,
          daysOver: 0,
        },
      }
    : {}),
})
const OLD = [
  { type: 'done', step: 'hold' },
  { type: 'captured', step: 'found-process', reading: reading(-66) },
  { type: 'captured', step: 'found-buffer', reading: reading(4, 'pH7.00') },
  { type: 'went-on' },
  { type: 'done', step: 'clean' },
  { type: 'captured', step: 'first-buffer', reading: reading(3, 'pH7.00') },
  { type: 'done', step: 'rinse' },
  { type: 'captured', step: 'second-buffer', reading: reading(-168, 'pH10.01') },
  { type: 'decided', step: 'result', decision: 'adjust', proposed: 'adjust', note: null },
  { type: 'applied', way: 'keyed', slopeEfficiency: 0.97, zero: 3.1, shownAfter: 7.02 },
]

let db: PGlite
beforeAll(async () => {
  db = new PGlite()
  for (const statement of sql('0000_first_light').split('--> statement-breakpoint')) await db.exec(statement)
  await db.exec(`
    insert into sites (name, time_zone) values ('A site', 'UTC');
    insert into places (site_id, name, water) values (1, 'A hall', 'seawater');
    insert into positions (place_id, code, spot, quantity, process_value, process_temperature, tolerance, floor_days, ceiling_days, cautions)
      values (1, 'P-1', 'a tank', 'pH', 8.1, 25, 0.1, 7, 60, '[]');
    insert into devices (name, shows, writable, link) values ('A device', 'millivolt', true, '{"kind":"modbus-tcp","host":"192.168.7.5","port":502,"unit":7}');
    insert into sensors (serial_number, kind, model) values ('1', 'pH', 'Glass');
    insert into installations (sensor_id, position_id, device_id, installed_at) values (1, 1, 1, '2026-01-01');
    insert into readings (installation_id, at, ph, millivolts, temperature) values (1, '2026-02-01', 8.12, -66, 25);
    insert into visits (id, installation_id, kind, first_standard, second_standard, operator, started_at)
      values ('${ID}', 1, 'check', 'pH7.00', 'pH10.01', 'S. Osk', '2026-02-01');
    insert into calibrations (installation_id, visit_id, at, zero, slope_efficiency, zero_uncertainty, slope_efficiency_uncertainty, adopted)
      values (1, '${ID}', '2026-02-01', 3.1, 0.97, 0.8, 0.01, true);
    insert into drift_observations (installation_id, visit_id, at, as_found, as_left, uncertainty, fouling, adjusted)
      values (1, '${ID}', '2026-02-01', -0.02, 0, 0.02, 5.8, true);`)
  for (const [i, entry] of OLD.entries()) {
    await db.query('insert into visit_entries (visit_id, seq, at, operator, entry) values ($1, $2, $3, $4, $5)', [
      ID,
      i + 1,
      new Date(Date.UTC(2026, 1, 1, 9, i)),
      'S. Osk',
      JSON.stringify(entry),
    ])
  }
  for (const statement of sql('0001_every_kind').split('--> statement-breakpoint')) await db.exec(statement)
})
afterAll(() => db.close())

const rows = async <T>(query: string) => (await db.query<T>(query)).rows

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

it('the half-done visit goes on at the step at which it stood, with every reading it had', async () => {
  const [visit] = await rows<{ procedure: string; settings: Record<string, unknown> }>('select * from visits')
  expect(visit).toMatchObject({
    procedure: 'ph-check',
    settings: { standards: { first: 'pH7.00', second: 'pH10.01' }, opening: {} },
  })
  const entries = await rows<{ at: Date; entry: RecordLine['entry'] }>(
    'select at, entry from visit_entries order by seq',
  )
  const setup = {
    kind: 'ph',
    activeCalibration: { zero: 0, slopeEfficiency: 1 },
    standards: { first: { code: 'pH7.00', lot: null }, second: { code: 'pH10.01', lot: null } },
    practices: USUAL_PRACTICES,
    device: {},
    shows: 'signal',
  } as unknown as Setup
  const progress = reduceVisit(
    procedureOf('ph-check'),
    setup,
    0,
    entries.map((e) => ({ at: e.at.getTime(), entry: e.entry })),
  )
  expect(progress.current?.key).toBe('verify')
  expect(progress.evidence.readings['point-1']?.signal).toBe(3)
  expect(progress.evidence.readings['point-2']).toMatchObject({ signal: -168, signalUncertainty: 0.9 })
  expect(progress.evidence.readings['found-standard']?.standard?.lot).toBe('7-1')
  expect(progress.evidence.applied).toEqual({
    characteristic: { slopeEfficiency: 0.97, zero: 3.1 },
    way: 'keyed',
    shownAfter: 7.02,
  })
})

it('of visits that were begun twice at once the newest goes on, the other ends and says why', async () => {
  const newest = ID.replace('a0e6', 'b0e6')
  await db.exec(`insert into visits (id, installation_id, procedure, settings, operator, started_at)
    values ('${newest}', 1, 'ph-check', '{"standards": {}, "opening": {}}', 'S. Osk', '2026-02-02')`)
  const later = (JSON.parse(sql('meta/_journal', 'json')) as { entries: { tag: string }[] }).entries.slice(2)
  for (const { tag } of later)
    for (const statement of sql(tag).split('--> statement-breakpoint')) await db.exec(statement)
  expect(await rows('select id, outcome, closed_at is null as open from visits order by started_at')).toEqual([
    { id: ID, outcome: 'abandoned', open: false },
    { id: newest, outcome: null, open: true },
  ])
  expect(await rows(`select entry from visit_entries where visit_id = '${ID}' order by seq desc limit 1`)).toEqual([
    { entry: { type: 'abandoned', reason: 'Begun twice at once; the other visit goes on.' } },
  ])
  await expect(
    db.exec(`insert into visits (id, installation_id, procedure, settings, operator, started_at)
      values (gen_random_uuid(), 1, 'ph-check', '{}', 'S. Osk', now())`),
  ).rejects.toThrow('one_open_visit')
})

it('a line of before there were connections is one, with the register map that was the only one', async () => {
  expect(await rows('select name, protocol, settings from connections')).toEqual([
    { name: 'Modbus at 192.168.7.5:502', protocol: 'modbus-tcp', settings: { host: '192.168.7.5', port: 502 } },
  ])
  expect(await rows('select connection_id, address from devices')).toEqual([{ connection_id: 1, address: { unit: 7 } }])
  expect(await rows('select mapping from positions')).toEqual([{ mapping: floatMap('ph', true) }])
})
