/** Ships without types of its own. */
declare module 'jstat' {
  const jStat: {
    normal: {
      cdf: (x: number, mean: number, deviation: number) => number
      pdf: (x: number, mean: number, deviation: number) => number
      inv: (p: number, mean: number, deviation: number) => number
    }
  }
  export default jStat
}
