/** A probability as a person reads it: 3.4 %, 41 %. */
export const probabilityText = (share: number): string =>
  share < 0.1 ? `${(share * 100).toFixed(1)} %` : `${Math.round(share * 100)} %`
