/** A line on the depth rail: how strongly the effect acts by distance, and the handles that set distances. */
export interface Lane {
  readonly caption: string;
  /** distance in metres (Infinity allowed) and strength 0..1, by rising distance */
  readonly points: readonly { readonly distance: number; readonly strength: number }[];
  /** drawn solid: the range that is left as it is, or acted on in full */
  readonly solid?: { readonly from: number; readonly to: number };
  /** `from`: the setting is what lies between there and the handle, m */
  readonly handles: readonly { readonly param: string; readonly distance: number; readonly from?: number }[];
}
