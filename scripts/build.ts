import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { buildDemoPages, buildWeb } from './buildWeb.ts'

/** Builds the pages of the product, and those of the demo where it is there. */
const demo = fileURLToPath(new URL('../demo', import.meta.url))
await Promise.all([buildWeb(), existsSync(demo) ? buildDemoPages() : null])
