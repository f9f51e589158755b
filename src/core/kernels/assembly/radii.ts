// Signed blur radii of a thin lens, and their place beside the light.

/** Distances in metres become ρ = atInfinity − scale / distance, kept within least … most (px). In place. */
export function radiiOfDistances(plane: usize, count: i32, atInfinity: f32, scale: f32, least: f32, most: f32): void {
  const far = f32x4.splat(atInfinity), s = f32x4.splat(scale), low = f32x4.splat(least), high = f32x4.splat(most);
  const end = plane + (<usize>count << 2);
  for (; plane + 16 <= end; plane += 16) v128.store(plane, f32x4.pmin(high, f32x4.pmax(low, f32x4.sub(far, f32x4.div(s, v128.load(plane))))));
  for (; plane < end; plane += 4) store<f32>(plane, min(most, max(least, atInfinity - scale / load<f32>(plane))));
}

/**
 * Puts radii in the place of alpha. `found` holds three vectors that are widened by what is met: the least and the greatest R, G, B and
 * radius, and the least R, G, B and alpha.
 */
export function packRadii(light: usize, radii: usize, count: i32, found: usize): void {
  let least = v128.load(found), greatest = v128.load(found, 16), thinnest = v128.load(found, 32);
  const end = light + (<usize>count << 4);
  for (; light < end; light += 16) {
    const v = v128.load(light), p = f32x4.replace_lane(v, 3, load<f32>(radii));
    thinnest = f32x4.pmin(thinnest, v);
    least = f32x4.pmin(least, p);
    greatest = f32x4.pmax(greatest, p);
    v128.store(light, p);
    radii += 4;
  }
  v128.store(found, least);
  v128.store(found, greatest, 16);
  v128.store(found, thinnest, 32);
}
