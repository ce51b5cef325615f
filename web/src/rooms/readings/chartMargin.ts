/** Charts over the same times are below each other. The left is the room for the values. */
export const CHART_MARGIN = { top: 18, right: 16, bottom: 0, left: 68 }
/** Room for the times, px. */
export const TIME_HEIGHT = 30
