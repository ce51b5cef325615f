/** What can hurt someone on the way. Each is said once a visit, where it first applies. */
export const HAZARDS = {
  cleaner:
    'Cleaners are acidic or caustic: gloves and eye protection, add acid to water, and never mix two of them; acid and chlorine give off toxic gas.',
  glass: 'Glass bulbs break on glass: use plastic cups, and wear gloves when you handle a broken one.',
  cyanide:
    'This standard holds cyanide complexes: keep acid away from it, read its safety sheet, and collect what is left.',
  'strong-acid': 'This standard is strong acid: goggles and gloves, read its safety sheet, and collect what is left.',
  quinhydrone: 'Quinhydrone irritates skin and eyes: gloves, no dust, and collect what is left.',
  reagent: 'Kit reagents stain and irritate: gloves, and keep them from the water that goes back.',
  mains:
    'Mains equipment near water: residual-current protection, dry hands, drip loops. Stray voltage is work for a licensed electrician.',
  mercury: 'Old calomel electrodes hold mercury: a broken one is hazardous waste.',
  loop: 'Disconnecting a transmitter moves what follows it: loops on hold, and lockout where the site asks for it.',
} as const

export type Hazard = keyof typeof HAZARDS

/** Stands under every caution. */
export const CODES_FIRST =
  'Your site\u2019s rules, the maker\u2019s sheets, local codes and licensed practice come first.'
