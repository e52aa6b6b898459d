import type { Collider, KinematicCharacterController, RigidBody, World } from "@dimforge/rapier3d-compat";
import { type Box3, type Mesh, Vector3 } from "three";

type Rapier = typeof import("@dimforge/rapier3d-compat").default;

/** Steps a second. */
export const RATE = 60;
const GRAVITY = 9.81;
/** A walker as engines have one, in metres: his height, half his width, and his pace a second. */
export const WALKER = { height: 1.8, radius: 0.3, pace: 1.5 };
const AWAY = 1.2;
/** Metres a second below which a ball lies still, and the seconds that it must. */
const STILL = { speed: 0.02, seconds: 0.4 };
/** A walker who gets on by less than this share of his pace is stopped. */
const STOPPED = 0.05;
const MOST_SECONDS = 8;
const MOST_BALLS = 12;

export interface Ball {
  body: RigidBody;
  radius: number;
  still: number;
}

export interface Walker {
  body: RigidBody;
  collider: Collider;
  controller: KinematicCharacterController;
  /** Towards the prop's middle, level. */
  direction: Vector3;
  start: Vector3;
  /** Metres from where he starts to the prop's far side. */
  past: number;
  still: number;
  seconds: number;
}

/** A floor, the proxies on it, and what was thrown or walked against them. */
export class PlayWorld {
  balls: Ball[] = [];
  walker: Walker | null = null;
  private world: World;
  private thrown = 0;

  constructor(
    private rapier: Rapier,
    proxies: Mesh[],
    private bounds: Box3,
  ) {
    this.world = new rapier.World({ x: 0, y: -GRAVITY, z: 0 });
    this.world.timestep = 1 / RATE;
    const floor = rapier.ColliderDesc.cuboid(100, 1, 100).setTranslation(0, bounds.min.y - 1, 0);
    this.world.createCollider(floor);
    for (const { geometry } of proxies) {
      const hull = rapier.ColliderDesc.convexHull(geometry.getAttribute("position").array as Float32Array);
      if (hull) this.world.createCollider(hull);
    }
  }

  private get middle(): Vector3 {
    return this.bounds.getCenter(new Vector3());
  }

  private get size(): number {
    const { x, y, z } = this.bounds.getSize(new Vector3());
    return Math.max(x, y, z);
  }

  /** Lets a ball fall from above; each beside the one before, so that they find their own ways. */
  drop(): void {
    const radius = 0.06 * this.size;
    const turn = 2.4 * this.thrown;
    const aside = 0.15 * this.size * Math.sqrt(this.thrown % MOST_BALLS) * 0.5;
    this.thrown++;
    const { x, z } = this.middle;
    const body = this.world.createRigidBody(
      this.rapier.RigidBodyDesc.dynamic()
        .setTranslation(x + aside * Math.cos(turn), this.bounds.max.y + 4 * radius, z + aside * Math.sin(turn))
        .setCcdEnabled(true),
    );
    this.world.createCollider(this.rapier.ColliderDesc.ball(radius).setRestitution(0.3).setFriction(0.6), body);
    this.balls.push({ body, radius, still: 0 });
    const old = this.balls.length > MOST_BALLS ? this.balls.shift() : undefined;
    if (old) this.world.removeRigidBody(old.body);
  }

  /** Sends a walker towards the prop from a side, given by a level direction from its middle. */
  push(from: Vector3): void {
    if (this.walker) {
      this.world.removeCharacterController(this.walker.controller);
      this.world.removeRigidBody(this.walker.body);
    }
    const half = this.bounds.getSize(new Vector3()).setY(0).length() / 2;
    const away = half + WALKER.radius + AWAY;
    const start = this.middle.addScaledVector(from, away);
    start.y = this.bounds.min.y + WALKER.height / 2 + 0.01;
    const body = this.world.createRigidBody(
      this.rapier.RigidBodyDesc.kinematicPositionBased().setTranslation(start.x, start.y, start.z),
    );
    const upright = this.rapier.ColliderDesc.capsule(WALKER.height / 2 - WALKER.radius, WALKER.radius);
    const collider = this.world.createCollider(upright, body);
    const controller = this.world.createCharacterController(0.01);
    controller.enableAutostep(0.3, 0.1, false);
    controller.enableSnapToGround(0.3);
    // He would slide along a side that he meets aslant, and it would not show that it stops him.
    controller.setSlideEnabled(false);
    this.walker = {
      body,
      collider,
      controller,
      direction: from.clone().negate(),
      start,
      past: 2 * away,
      still: 0,
      seconds: 0,
    };
  }

  /** One step; what there is to say, once something has come to an end. */
  step(): string | null {
    const said = this.walker ? this.walk(this.walker) : null;
    this.world.step();
    return this.rested() ?? said;
  }

  get isMoving(): boolean {
    const walks = this.walker !== null && this.walker.still < STILL.seconds && this.walker.seconds < MOST_SECONDS;
    return walks || this.balls.some(({ still }) => still < STILL.seconds);
  }

  private rested(): string | null {
    let said: string | null = null;
    for (const ball of this.balls) {
      const { x, y, z } = ball.body.linvel();
      const before = ball.still;
      ball.still = Math.hypot(x, y, z) < STILL.speed ? before + 1 / RATE : 0;
      if (before < STILL.seconds && ball.still >= STILL.seconds) said = this.whereLies(ball);
    }
    return said;
  }

  private whereLies({ body, radius }: Ball): string {
    const above = body.translation().y - radius - this.bounds.min.y;
    return above < 0.5 * radius
      ? "The ball came to rest on the floor."
      : `The ball came to rest on the collision, ${above.toFixed(2)} m above the floor.`;
  }

  private walk(walker: Walker): string | null {
    const { body, collider, controller, direction, start } = walker;
    if (walker.still >= STILL.seconds || walker.seconds >= MOST_SECONDS) return null;
    const by = WALKER.pace / RATE;
    const wanted = { x: direction.x * by, y: 0, z: direction.z * by };
    controller.computeColliderMovement(collider, wanted);
    const moved = controller.computedMovement();
    const at = body.translation();
    const next = { x: at.x + moved.x, y: at.y + moved.y, z: at.z + moved.z };
    body.setNextKinematicTranslation(next);
    walker.seconds += 1 / RATE;
    const along = moved.x * direction.x + moved.z * direction.z;
    walker.still = along < STOPPED * by ? walker.still + 1 / RATE : 0;
    const gone = new Vector3(next.x, next.y, next.z).sub(start).dot(direction);
    if (gone >= walker.past || walker.seconds >= MOST_SECONDS) {
      walker.seconds = MOST_SECONDS;
      return "The walker went past: nothing stopped him on this way.";
    }
    if (walker.still < STILL.seconds) return null;
    const left = Math.max(walker.past / 2 - gone - WALKER.radius, 0);
    return `The walker was stopped, his front ${left.toFixed(2)} m from the prop's middle.`;
  }

  free(): void {
    this.world.free();
  }
}

/** The physics library, loaded when it is first needed, with a world around the proxies. */
export async function makePlayWorld(proxies: Mesh[], bounds: Box3): Promise<PlayWorld> {
  const { default: rapier } = await import("@dimforge/rapier3d-compat");
  await rapier.init();
  return new PlayWorld(rapier, proxies, bounds);
}
