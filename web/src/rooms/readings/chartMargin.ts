/** Charts over the same times stand under each other. */
export const CHART_MARGIN = { top: 18, right: 16, bottom: 30, left: 68 }
