/** A layer through which a solution diffuses from one side; the other side is closed. */
export class Layer {
  private readonly cells = new Float64Array(10)
  constructor(private readonly time: number) {}

  /** Share of the new solution at the closed side after `dt` seconds of `outside` at the open one. */
  step(outside: number, dt: number): number {
    const n = this.cells.length
    const r = (dt / this.time) * n * n
    // Thomas' algorithm for the tridiagonal system of one implicit step.
    const upper = new Float64Array(n)
    const right = new Float64Array(n)
    for (let i = 0; i < n; i++) {
      const first = i === 0
      const last = i === n - 1
      // The face of the first cell is half a cell away.
      const diagonal = 1 + (first ? 3 * r : last ? r : 2 * r)
      const below = first ? 0 : -r
      const b = (this.cells[i] as number) + (first ? 2 * r * outside : 0)
      const pivot = diagonal - below * (first ? 0 : (upper[i - 1] as number))
      upper[i] = last ? 0 : -r / pivot
      right[i] = (b - below * (first ? 0 : (right[i - 1] as number))) / pivot
    }
    for (let i = n - 1; i >= 0; i--) {
      this.cells[i] = (right[i] as number) - (i < n - 1 ? (upper[i] as number) * (this.cells[i + 1] as number) : 0)
    }
    return this.cells[n - 1] as number
  }
}
