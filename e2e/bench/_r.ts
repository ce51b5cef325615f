import { chromium } from '@playwright/test'
import { CHROMIUM_FLAGS, ensureChromium } from '../../scripts/chromium.ts'
import { readingRows } from './readings.ts'

const browser = await chromium.launch({ executablePath: ensureChromium(), args: [...CHROMIUM_FLAGS] })
console.table(await readingRows(browser))
await browser.close()
