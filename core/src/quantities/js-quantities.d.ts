declare module 'js-quantities' {
  export default class Qty {
    constructor(value: number, unit: string)
    to(unit: string): Qty
    scalar: number
  }
}
