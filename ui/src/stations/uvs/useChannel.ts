import { useMemo } from "react";
import type { BufferAttribute, BufferGeometry } from "three";

import { findIslands, type UvIslands } from "../../surface/uvs";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";

const NAMES = ["uv", "uv1", "uv2", "uv3"];

/** The UVs of a channel, six numbers a triangle in the order of the surface; null where a mesh of it has none. */
function gatherUvs(level: SurfaceLevel, channel: number): Float32Array | null {
  const out = new Float32Array(6 * level.surface.triangles);
  let at = 0;
  for (const { mesh } of level.level.meshes) {
    const geometry = mesh.geometry as BufferGeometry;
    const uv = geometry.getAttribute(NAMES[channel] ?? "") as BufferAttribute | undefined;
    if (!uv) return null;
    out.set(uv.array, at);
    at += 2 * geometry.getAttribute("position").count;
  }
  return out;
}

/** A channel of LOD0 with its islands; null while the surface loads, and where it has no such channel. */
export function useChannel(level: SurfaceLevel | null, channel: number): UvIslands | null {
  return useMemo(() => {
    const uvs = level && gatherUvs(level, channel);
    return uvs ? findIslands(uvs, level.surface.positions, level.surface.sheet.twin) : null;
  }, [level, channel]);
}
