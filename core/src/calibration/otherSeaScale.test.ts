import { expect, it } from 'vitest'
import { findOtherSeaScale, findThousandfold } from './slips.ts'

it('a specific gravity typed for a salinity is named, and the other way round; a plausible number is not', () => {
  const sea = 52_000
  expect(findOtherSeaScale('salinity', 1.026, sea)).toBe('specific gravity')
  expect(findOtherSeaScale('specific gravity', 35, sea)).toBe('salinity')
  for (const [display, typed, water] of [
    ['salinity', 35, sea],
    ['salinity', 0, sea],
    // Brackish water may well be at one.
    ['salinity', 1.02, 2000],
    ['specific gravity', 1.026, sea],
    ['specific gravity', 1, sea],
    ['µS/cm', 1.026, sea],
    [undefined, 35, sea],
  ] as const) {
    expect(findOtherSeaScale(display, typed, water), `${display} ${typed}`).toBeNull()
  }
})

it('a thousandfold is named by the unit that was typed, and an unusual water is not', () => {
  expect(findThousandfold('mS/cm', 1410, 1.4)).toBe('µS/cm')
  expect(findThousandfold('µS/cm', 1.9, 1400)).toBe('mS/cm')
  for (const [unit, typed, usual] of [
    ['mS/cm', 14, 1.4],
    ['µS/cm', 14, 1400],
    ['mS/cm', 0, 1.4],
    ['µS/cm', 1.4, 0],
    ['MΩ·cm', 18_000, 18],
  ] as const) {
    expect(findThousandfold(unit, typed, usual), `${typed} ${unit}`).toBeNull()
  }
})
