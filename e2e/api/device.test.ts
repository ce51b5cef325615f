import type { ProblemView, RigView, StartingView, ThingView, VisitView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

// One grey pixel, built by hand after the PNG recommendation.
const PIXEL = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNgAAAAAgABSK+kcQAAAABJRU5ErkJggg==',
  'base64',
)

it('what is noted of a device holds on its form, at the Bench, and on another site', async () => {
  const { ask, url } = await ownSite(
    'code,kind,device,place,water,value (mS/cm)\npH-1,pH,Controller,Hall,nutrient,5.9\nEC-1,EC,Controller,Hall,nutrient,2',
    {
      adjustsBy: 'numbers',
    },
  )
  const { devices } = (await ask<RigView>('rig')).body
  const path = `rig/device/${devices[0]?.id}`
  const look = async () => (await ask<ThingView>(path)).body
  const edit = async (values: object) =>
    ask<ProblemView & ThingView>(path, { operator, values, seen: (await look()).values, mode: 'wrong' })

  const kept = await fetch(`${url()}/api/photos`, {
    method: 'POST',
    body: PIXEL,
    headers: { 'content-type': 'image/png' },
  })
  const { photo } = (await kept.json()) as { photo: string }
  const noted = {
    'ph-decimals': '1',
    'conductivity-low': '0',
    'conductivity-high': '5',
    'ph-at4': '0',
    'ph-at20': '14',
    temperatureFrom: 'fixed',
    fixedTemperature: '20',
    photo,
  }
  expect((await edit(noted)).status).toBe(200)
  const device = await look()
  expect(device.values).toMatchObject({ ...noted, 'conductivity-decimals': 'usual', 'conductivity-at4': '' })
  expect(plain(device.says ?? '')).toBe('pH-1: at pH 5.9 its output gives 10.74 mA.')

  // What goes not together is refused at its field, and leaves all as it was.
  const wrong: [object, string][] = [
    [{ 'ph-low': '9', 'ph-high': '3' }, 'ph-high'],
    [{ 'ph-at20': '' }, 'ph-at20'],
    [{ 'conductivity-at4': '1', 'conductivity-at20': '1' }, 'conductivity-at20'],
    [{ photo: 'f'.repeat(64) }, ''],
    [{ photo: 'cat.jpg' }, 'photo'],
    [{ fixedTemperature: '400' }, 'fixedTemperature'],
    [{ 'ph-decimals': '9' }, 'ph-decimals'],
  ]
  for (const [values, field] of wrong) {
    const { status, body } = await edit(values)
    expect([field, status >= 400 && status < 500]).toEqual([field, true])
    if (field) expect(Object.keys(body.fields ?? {})).toEqual([field])
  }
  expect((await look()).values).toEqual(device.values)

  // A display that ends at 5 mS/cm is offered no standard beyond it.
  const starting = (await ask<StartingView>('probes/EC-1/starting')).body
  const offered = starting.procedures.flatMap((p) => p.roles.flatMap((r) => r.choices))
  expect(offered).toContain('kcl-1413')
  expect(offered).not.toContain('kcl-12.88')

  const asker = { operator, clientId: '0d2b9a52-6b0f-4f0e-9d83-4a8a8c1f2b10' }
  const ph = (await ask<StartingView>('probes/pH-1/starting')).body.procedures.find((p) => p.id === 'ph-check')
  const standards = Object.fromEntries((ph?.roles ?? []).map((r) => [r.role, r.choices[0]]))
  const { body: visit } = await ask<VisitView>('visits', { ...asker, position: 'pH-1', procedure: ph?.id, standards })
  expect([visit.typing.decimals, visit.fixedTemperature]).toEqual([1, 20])

  // A field that is emptied is empty, and a line of the list takes it back.
  expect((await edit({ 'conductivity-high': '', photo: '' })).body?.values).toMatchObject({
    'conductivity-high': '',
    photo: '',
  })
  const line = (await look()).changes.find((c) => c.undo && plain(c.what)?.startsWith('Photo'))
  const undone = await ask<ThingView>(`${path}/changes/${line?.id}/undo`, { operator })
  expect(undone.body.values.photo).toBe(photo)

  const file = await (await fetch(`${url()}/api/rig/set-up.json`)).json()
  const other = await ownSite('')
  await other.ask('site/set-up', { name: 'Copy', person: operator, timeZone: 'UTC' })
  expect((await other.ask(`bring/set-up?${new URLSearchParams({ operator })}`, file as object)).status).toBe(200)
  const there = (await other.get<RigView>('rig')).devices[0]?.id
  expect((await other.get<ThingView>(`rig/device/${there}`)).values).toEqual((await look()).values)
  expect(Buffer.from(await (await fetch(`${other.url()}/api/photos/${photo}`)).arrayBuffer())).toEqual(PIXEL)
})
