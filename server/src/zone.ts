/** The hour of the day on the site's clocks. A formatter that is kept: asked for each hour of a month, dates are slow. */
export function hourIn(timeZone: string): (at: number) => number {
  const hour = new Intl.DateTimeFormat('en', { timeZone, hour: 'numeric', hourCycle: 'h23' })
  return (at) => Number(hour.format(at))
}
