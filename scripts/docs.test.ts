import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect, it } from 'vitest'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const FOLDERS = 'core|contract|server|web|lab|demo|e2e|docs|scripts'

const pages = ['README.md', 'CONTRIBUTING.md', ...readdirSync(join(ROOT, 'docs'), { recursive: true })]
  .map((name) => (existsSync(join(ROOT, String(name))) ? String(name) : join('docs', String(name))))
  .filter((name) => name.endsWith('.md'))

it.each(pages)('%s names only files and folders that there are', (page) => {
  const text = readFileSync(join(ROOT, page), 'utf8')
  const named = [...text.matchAll(new RegExp(`\`((?:${FOLDERS})/[\\w./-]*)\``, 'g'))].map((m) => m[1] as string)
  const linked = [...text.matchAll(/\]\((?!https?:|#)([^)]+)\)/g)].map((m) => join(page, '..', m[1] as string))
  expect([...named, ...linked].filter((path) => !existsSync(join(ROOT, path)))).toEqual([])
})

it('the life of a reading names only functions that the file beside them has', () => {
  const text = readFileSync(join(ROOT, 'docs/life-of-a-reading.md'), 'utf8')
  const pairs = [...text.matchAll(/`(?:\w+\.)?(\w+)`\s+\(`([\w./-]+\.tsx?)`\)/g)]
  expect(pairs.length).toBeGreaterThan(8)
  const missing = pairs.filter(
    ([, name, path]) => !readFileSync(join(ROOT, path as string), 'utf8').includes(name as string),
  )
  expect(missing.map(([whole]) => whole)).toEqual([])
})
