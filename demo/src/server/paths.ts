/** Where a stand-in is played with. Apart from the bodies: the browser needs no schemas for it. */
export const standInPath = (position: string) => `/api/extensions/demo/standins/${encodeURIComponent(position)}`
