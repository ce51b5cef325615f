import { expect, it } from 'vitest'
import { modelOf } from '../kinds/index.ts'
import { isSameWater } from './sameWater.ts'

it('a water is the same as long as neither its value nor its temperature says another (common practice, no source)', () => {
  const [ph, cell] = [modelOf('ph'), modelOf('conductivity')]
  const is = (model: typeof ph, value: number, temperature: number, than: [number, number]) =>
    isSameWater(model, { value: than[0], temperature: than[1] }, { value, temperature })
  expect([is(ph, 8.3, 25, [8.2, 25]), is(ph, 8.4, 25, [8.2, 25]), is(ph, 8.2, 31, [8.2, 25])]).toEqual([
    true,
    false,
    false,
  ])
  expect([is(cell, 2060, 21, [2000, 25]), is(cell, 2200, 21, [2000, 25])]).toEqual([true, false])
})
