/** What a water can do to people, animals and what is made with it; shown before each visit. */
export const WATER_CAUTIONS = {
  livestock: 'Livestock depend on this water. Put dosing on hold before the probe leaves it.',
  crop: 'The doser follows this probe. Put it on hold, or it will doctor the buffer and then the crop.',
  pressure: 'Pressurised hot line. Isolate and relieve it first; lock out where the site asks for it.',
  purity:
    'What is made with this water follows its reading. Put the loop on hold, and let nothing run back into the line.',
  treated: 'Treated cooling water. Gloves and eye protection; discharge rules apply.',
  drinking: 'This water is drunk. The authority’s method and interval come first.',
  caustic: 'Acid and caustic are dosed here. Goggles and gloves, dosing on hold, and somebody who knows where you are.',
} as const

/** The waters that sensors stand in, as a site calls them. */
export const WATERS = {
  seawater: { label: 'Seawater aquarium', caution: 'livestock' },
  freshwater: { label: 'Freshwater aquarium', caution: 'livestock' },
  nutrient: { label: 'Nutrient reservoir', caution: 'crop' },
  boiler: { label: 'Boiler feed or high-purity water', caution: 'pressure' },
  pure: { label: 'Rinse or purified water', caution: 'purity' },
  cooling: { label: 'Cooling water', caution: 'treated' },
  drinking: { label: 'Drinking water', caution: 'drinking' },
  wash: { label: 'Wash or neutralisation', caution: 'caustic' },
} as const satisfies Record<string, { label: string; caution: keyof typeof WATER_CAUTIONS }>

export type Water = keyof typeof WATERS
export const WATER_KINDS = Object.keys(WATERS) as Water[]
