import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import { Box3, Mesh, MeshBasicMaterial, MeshLambertMaterial, NeutralToneMapping, type Object3D, Vector3 } from "three";

import type { EngineAsset } from "../../api/client";
import { useTheme } from "../../app/theme";
import { APART } from "../../surface/palette";
import { PlacesDrawn } from "../../viewport/Places";
import { Light } from "../../viewport/Stage";
import { ChartGrid } from "../../viewport/Surroundings";
import { levelAt } from "./levels";
import { speedOf, useLooking, useWalking } from "./steering";
import { middleOf, ownMaterial, type WalkAsset } from "./loadAsset";
import { makeWalkWorld, WALKER, type WalkWorld } from "./walkWorld";

const CELL = 1;
const START = { x: 3, z: 2.2, turn: 0 };
const ANGLE = 60;
const LEVELS = APART.map((color) => new MeshLambertMaterial({ color, emissive: color, emissiveIntensity: 0.25 }));
const PROXY = new MeshBasicMaterial({ color: "#a81e6e", wireframe: true, transparent: true, opacity: 0.55 });

/** What the eye sees of an asset at a moment. */
export interface Sight {
  id: number;
  level: number;
  distance: number;
}

interface WalkProps {
  assets: EngineAsset[];
  drawn: Map<number, WalkAsset>;
  bias: number;
  showsLevels: boolean;
  showsProxies: boolean;
  /** The asset whose findings show where they are. */
  chosen: number | null;
  /** The asset to stand before; another stamp goes there again. */
  goal: { id: number; stamp: number } | null;
  onSight: (sights: Sight[], stoppedBy: number | null) => void;
}

/** The assets on a floor, seen by someone who walks among them: levels switch by distance, proxies stand in the way. */
export function Walk(props: WalkProps) {
  return (
    <div className="absolute inset-0" style={{ background: "linear-gradient(var(--sky-top), var(--sky-bottom))" }}>
      <Canvas
        frameloop="demand"
        dpr={[0.5, 2]}
        camera={{ fov: ANGLE, near: 0.05, far: 400 }}
        gl={{ antialias: true, alpha: true, toneMapping: NeutralToneMapping, preserveDrawingBuffer: true }}
        role="img"
        tabIndex={0}
        aria-label="The engine's scene; walk with the arrow keys or W A S D, drag to look around, Shift runs"
      >
        <Light />
        <Scene {...props} />
      </Canvas>
    </div>
  );
}

function Scene({ assets, drawn, bias, showsLevels, showsProxies, chosen, goal, onSight }: WalkProps) {
  const { camera, gl, invalidate } = useThree();
  const night = useTheme() === "night";
  const [world, setWorld] = useState<WalkWorld | null>(null);
  const look = useRef({ turn: 0, tilt: -0.08 });
  const keys = useRef(new Set<string>());
  const stopped = useRef<number | null>(null);
  const told = useRef("");
  const [floor, setFloor] = useState(() => cellAt(START.x, START.z));
  useEffect(() => {
    let made: WalkWorld | null = null;
    let isGone = false;
    void makeWalkWorld(START).then((next) => {
      made = next;
      if (isGone) next.free();
      else setWorld(next);
    });
    return () => {
      isGone = true;
      made?.free();
    };
  }, []);
  useLooking(gl.domElement, look, invalidate);
  useWalking(gl.domElement, keys, invalidate);
  const spots = useMemo(() => assets.map(({ id, x, z, turn }) => ({ id, x, z, turn })), [assets]);
  useEffect(() => {
    if (!world) return;
    for (const { id, ...spot } of spots) {
      const asset = drawn.get(id);
      if (asset) world.place(String(id), asset, spot);
      else world.take(String(id));
    }
    invalidate();
    return () => spots.forEach(({ id }) => world.take(String(id)));
  }, [world, spots, drawn, invalidate]);
  useEffect(() => {
    const asset = goal ? drawn.get(goal.id) : undefined;
    const spot = spots.find(({ id }) => id === goal?.id);
    if (!world || !asset || !spot) return;
    const away = Math.max(2.2 * asset.sphere.radius, 1.2);
    const middle = middleOf(asset, spot);
    world.stand({ x: middle.x, z: middle.z + away });
    look.current = { turn: 0, tilt: Math.atan2(middle.y - WALKER.eyes, away) };
    invalidate();
    // Where it stands is of the moment: it does not follow an asset that is moved.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [goal, world]);
  useEffect(() => invalidate(), [bias, showsLevels, showsProxies, chosen, drawn, invalidate]);
  useFrame((_, delta) => {
    if (!world) return;
    const step = Math.min(delta, 0.1);
    const speed = speedOf(keys.current, look.current.turn);
    if (speed.lengthSq() > 0) {
      const owner = world.walk(speed, step);
      stopped.current = owner === null ? null : Number(owner);
      invalidate();
    }
    camera.position.copy(world.eye);
    const below = cellAt(camera.position.x, camera.position.z);
    if (!below.equals(floor)) setFloor(below);
    const { turn, tilt } = look.current;
    camera.rotation.set(tilt, turn, 0, "YXZ");
    const sights = assets.flatMap((asset) => {
      const own = drawn.get(asset.id);
      if (!own) return [];
      const distance = middleOf(own, asset).distanceTo(camera.position);
      const level = levelAt(asset.distances, distance, bias);
      show(own, level, showsLevels);
      return [{ id: asset.id, level, distance }];
    });
    const now = JSON.stringify([
      sights.map(({ id, level, distance }) => [id, level, distance.toFixed(1)]),
      stopped.current,
    ]);
    if (now !== told.current) {
      told.current = now;
      onSight(sights, stopped.current);
    }
  });
  return (
    <>
      <mesh rotation={[-Math.PI / 2, 0, 0]} position={[floor.min.x, -0.01, floor.min.z]}>
        <planeGeometry args={[800, 800]} />
        <meshBasicMaterial color={night ? "#17202c" : "#f4f0e6"} />
      </mesh>
      <ChartGrid bounds={floor} cell={CELL} />
      {assets.map((asset) => {
        const own = drawn.get(asset.id);
        const place: [number, number, number] = [asset.x, 0, asset.z];
        const rotation: [number, number, number] = [0, (asset.turn * Math.PI) / 180, 0];
        if (!own) return <Missing key={asset.id} asset={asset} place={place} />;
        return (
          <group key={asset.id} position={place} rotation={rotation}>
            {own.levels.map(({ object }) => (
              <primitive key={object.uuid} object={object} dispose={null} />
            ))}
            {asset.id === chosen &&
              asset.findings.map(({ code, level, places }) =>
                places?.points.length ? <PlacesDrawn key={`${code}${level}`} places={places} /> : null,
              )}
            {showsProxies &&
              own.proxies.map((proxy) => (
                <mesh key={proxy.uuid} geometry={proxy.geometry} material={PROXY} dispose={null} />
              ))}
          </group>
        );
      })}
    </>
  );
}

/** The cell of the floor that a place lies in, around which the floor is drawn; it moves on by several at once. */
function cellAt(x: number, z: number): Box3 {
  const [left, back] = [Math.round(x / (5 * CELL)) * 5 * CELL, Math.round(z / (5 * CELL)) * 5 * CELL];
  return new Box3(new Vector3(left, 0, back), new Vector3(left, 0, back));
}

/** The box that stands where an asset is missing. */
function Missing({ asset, place }: { asset: EngineAsset; place: [number, number, number] }) {
  const [x = 0.5, y = 0.5, z = 0.5] = asset.seen?.size ?? [];
  if (asset.change !== "vanished") return null;
  return (
    <mesh position={[place[0], y / 2, place[2]]}>
      <boxGeometry args={[x, y, z]} />
      <meshBasicMaterial color="#9e1b32" wireframe />
    </mesh>
  );
}

/** Shows one level; what no name says to be a level is drawn always. */
function show({ levels }: WalkAsset, level: number, showsLevels: boolean): void {
  levels.forEach(({ object, number }, index) => {
    object.visible = number === null || index === Math.min(level, levels.length - 1);
    if (object.visible) paint(object, showsLevels ? index : null);
  });
}

function paint(object: Object3D, level: number | null): void {
  object.traverse((child) => {
    if (!(child instanceof Mesh)) return;
    const own = ownMaterial(child as Mesh);
    child.material = (level === null ? null : LEVELS[level % LEVELS.length]) ?? own;
  });
}
