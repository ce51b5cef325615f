import { expect, it } from 'vitest'
import { heavy } from '../fixtures/heavy.ts'
import { FAMILIES, type FamilyName, familyFigures } from './finderFamilies.ts'

it.each(Object.keys(FAMILIES) as FamilyName[])(
  'the number of a display in %s devices is first after two looks, and never lost by a wrong one',
  async (family) => {
    const { afterTwo, afterSix, listed, wronglyCertain, missed } = await familyFigures(family, heavy(4, 200))
    expect(wronglyCertain).toEqual([])
    // Of four devices one may be missed.
    const least = heavy(0.75, 0.97)
    expect(afterTwo, JSON.stringify(missed)).toBeGreaterThanOrEqual(least)
    expect(afterSix, JSON.stringify(missed)).toBeGreaterThanOrEqual(least)
    expect(listed, JSON.stringify(missed)).toBe(1)
  },
)
