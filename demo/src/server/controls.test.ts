import { expect, it } from 'vitest'
import { fleet } from '../pellwick.ts'
import { standInControls } from './controls.ts'

it.each(fleet().map((s) => [s.code, s] as const))('%s: no two cups of the strip read alike', (_, sensor) => {
  const standards = Object.fromEntries(Object.entries(sensor.standards).filter(([, code]) => code !== undefined))
  const labels = standInControls(sensor.kind, 'check', standards).baths.map((b) => b.label)
  expect(new Set(labels).size).toBe(labels.length)
})
