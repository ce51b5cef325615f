import { familyFigures } from './bench/finderFamilies.ts'

const [n, ...fams] = process.argv.slice(2)
for (const f of fams) {
  const t = performance.now()
  const r = await familyFigures(f as never, Number(n))
  console.log(
    f,
    ((performance.now() - t) / 1000).toFixed(0) + 's',
    r.afterTwo,
    r.afterSix,
    r.listed,
    JSON.stringify(r.wronglyCertain),
    JSON.stringify(r.missed),
  )
}
