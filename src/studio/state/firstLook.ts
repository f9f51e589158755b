/** The small picture of the plate that was brought in last, until its shot shows its own. */
let look: { readonly shot: string; readonly picture: ImageBitmap } | null = null;

export function keepFirstLook(shot: string, picture: ImageBitmap): void {
  look?.picture.close();
  look = { shot, picture };
}

/** The picture kept for a shot, handed over once; null where there is none. */
export function takeFirstLook(shot: string): ImageBitmap | null {
  if (look?.shot !== shot) return null;
  const { picture } = look;
  look = null;
  return picture;
}
