declare module 'jstat' {
  interface Distribution {
    cdf(x: number, ...parameters: number[]): number
    inv(p: number, ...parameters: number[]): number
  }
  export const jStat: {
    studentt: Distribution
    normal: Distribution
    gammaln(x: number): number
    ibeta(x: number, a: number, b: number): number
    models: { ols(y: number[], x: number[][]): { coef: number[]; t: { interval95: [number, number][] } } }
  }
}
