/** 0 degC in kelvin, by definition. */
export const ZERO_CELSIUS = 273.15

/** ITS-90 to IPTS-68 over the range of natural waters: t68 = 1.00024 t90 (Saunders 1990, WOCE Newsletter 10). */
export const T68_PER_T90 = 1.00024
