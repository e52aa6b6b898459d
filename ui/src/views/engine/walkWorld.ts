import type { Collider, KinematicCharacterController, RigidBody, World } from "@dimforge/rapier3d-compat";
import { type Mesh, Vector3 } from "three";

import type { WalkAsset } from "./loadAsset";

type Rapier = typeof import("@dimforge/rapier3d-compat").default;

/** Someone who walks, in metres: height, half the width, height of the eyes, pace a second. */
export const WALKER = { height: 1.8, radius: 0.3, eyes: 1.68, pace: 1.6, run: 4 };
const RATE = 60;
const GRAVITY = 9.81;
/** A step that gets on by less than this share of what was wanted was stopped. */
const STOPPED = 0.5;

/** Where an asset stands: metres on the floor, and degrees about the upright. */
export interface Spot {
  x: number;
  z: number;
  turn: number;
}

/** A floor with the proxies of all assets on it, and someone who walks among them. */
export class WalkWorld {
  private world: World;
  private body: RigidBody;
  private collider: Collider;
  private controller: KinematicCharacterController;
  private isFree = false;
  private owners = new Map<number, string>();

  constructor(
    private rapier: Rapier,
    start: Spot,
  ) {
    this.world = new rapier.World({ x: 0, y: -GRAVITY, z: 0 });
    this.world.timestep = 1 / RATE;
    this.world.createCollider(rapier.ColliderDesc.cuboid(500, 1, 500).setTranslation(0, -1, 0));
    this.body = this.world.createRigidBody(
      rapier.RigidBodyDesc.kinematicPositionBased().setTranslation(start.x, WALKER.height / 2 + 0.02, start.z),
    );
    this.collider = this.world.createCollider(
      rapier.ColliderDesc.capsule(WALKER.height / 2 - WALKER.radius, WALKER.radius),
      this.body,
    );
    this.controller = this.world.createCharacterController(0.01);
    this.controller.enableAutostep(0.3, 0.1, false);
    this.controller.enableSnapToGround(0.3);
    this.world.step();
  }

  /** Puts the proxies of an asset where it stands; those that were there before go. */
  place(key: string, asset: WalkAsset, spot: Spot): void {
    this.take(key);
    const half = (spot.turn * Math.PI) / 360;
    for (const proxy of asset.proxies) {
      const hull = this.rapier.ColliderDesc.convexHull(pointsOf(proxy));
      if (!hull) continue;
      hull.setTranslation(spot.x, 0, spot.z).setRotation({ x: 0, y: Math.sin(half), z: 0, w: Math.cos(half) });
      this.owners.set(this.world.createCollider(hull).handle, key);
    }
    this.world.step();
  }

  /** Takes the proxies of an asset away. */
  take(key: string): void {
    if (this.isFree) return;
    for (const [handle, owner] of this.owners) {
      if (owner !== key) continue;
      this.world.removeCollider(this.world.getCollider(handle), false);
      this.owners.delete(handle);
    }
  }

  /** Where the eyes are. */
  get eye(): Vector3 {
    const { x, y, z } = this.body.translation();
    return new Vector3(x, y - WALKER.height / 2 + WALKER.eyes, z);
  }

  /** Stands elsewhere at once. */
  stand({ x, z }: { x: number; z: number }): void {
    this.body.setTranslation({ x, y: WALKER.height / 2 + 0.02, z }, true);
    this.body.setNextKinematicTranslation({ x, y: WALKER.height / 2 + 0.02, z });
    this.world.step();
  }

  /** Walks on for some seconds by a speed on the floor; the asset that stopped it, if one did. */
  walk(speed: Vector3, seconds: number): string | null {
    if (this.isFree) return null;
    const wanted = { x: speed.x * seconds, y: -GRAVITY * seconds * seconds, z: speed.z * seconds };
    this.controller.computeColliderMovement(this.collider, wanted);
    const moved = this.controller.computedMovement();
    const at = this.body.translation();
    this.body.setNextKinematicTranslation({ x: at.x + moved.x, y: at.y + moved.y, z: at.z + moved.z });
    this.world.step();
    const asked = Math.hypot(wanted.x, wanted.z);
    if (asked < 1e-6 || Math.hypot(moved.x, moved.z) > STOPPED * asked) return null;
    for (let k = 0; k < this.controller.numComputedCollisions(); k++) {
      const handle = this.controller.computedCollision(k)?.collider?.handle;
      const owner = handle === undefined ? undefined : this.owners.get(handle);
      if (owner !== undefined) return owner;
    }
    return null;
  }

  free(): void {
    this.isFree = true;
    this.world.free();
  }
}

function pointsOf({ geometry }: Mesh): Float32Array {
  return new Float32Array(geometry.getAttribute("position").array);
}

/** The physics library, loaded when it is first needed. */
export async function makeWalkWorld(start: Spot): Promise<WalkWorld> {
  const { default: rapier } = await import("@dimforge/rapier3d-compat");
  await rapier.init();
  return new WalkWorld(rapier, start);
}
