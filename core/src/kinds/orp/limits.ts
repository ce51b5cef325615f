/** An ORP offset beyond this is a reference that is going; beyond twice of it, gone, mV (common practice, no source). */
export const ORP_OFFSET_RULE = 30
/** An ORP channel has no slope to lose: a gain beyond this is electronics or a wrong standard, 1 (common practice, no source). */
export const ORP_GAIN_RULE = 0.05
