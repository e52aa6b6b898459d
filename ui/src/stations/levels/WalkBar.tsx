import type { ReactNode } from "react";

import { Button } from "../../parts/Button";
import { count, metres, pixels } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { pixelsOf } from "../../viewport/gameView";
import { type EyeStore, useEye } from "../../viewport/viewState";
import { visibleStep } from "./switches";
import type { SwitchView, Walk } from "./useWalk";

const SEEN: { value: SwitchView; label: string; hint: string }[] = [
  { value: "off", label: "Walk", hint: "the prop as the game will draw it" },
  { value: "blink", label: "Blink", hint: "the two levels of a switch, one after the other (K)" },
  { value: "difference", label: "Difference", hint: "what differs between the two levels of a switch (J)" },
];
const STEPS = 1000;
/** As the difference picture draws them. */
const [OUTLINE, SHADING] = ["#b01c5a", "#2f6f91"];

/** How the prop is walked away from, and what is drawn where. */
export function WalkBar({ walk, eye, blinksOther }: { walk: Walk; eye: EyeStore; blinksOther: boolean }) {
  const { distance } = useEye(eye);
  const { switches } = walk;
  if (!switches) return null;
  const share = Math.min(Math.max(Math.log(distance / walk.near) / Math.log(walk.far / walk.near), 0), 1);
  return (
    <div className="flex items-center gap-3 border-b border-rule-strong bg-sheet px-3 py-1.5">
      <Segmented
        label="What is seen"
        value={walk.seen}
        options={SEEN.filter(({ value }) => value === "off" || switches.levels.length > 1)}
        onChange={walk.setSeen}
      />
      {walk.seen === "off" ? (
        <>
          <Button
            aria-label={walk.isPlaying ? "Stop walking" : "Walk to and fro"}
            title="from near to far and back (Space)"
            onClick={() => walk.play(!walk.isPlaying)}
          >
            {walk.isPlaying ? "❚❚" : "▶"}
          </Button>
          <input
            type="range"
            aria-label="Distance of the viewer"
            aria-valuetext={metres(distance)}
            min={0}
            max={STEPS}
            value={Math.round(share * STEPS)}
            onChange={(event) => {
              walk.play(false);
              walk.goTo(walk.near * (walk.far / walk.near) ** (Number(event.target.value) / STEPS));
            }}
            className="min-w-24 grow accent-(--mark)"
          />
        </>
      ) : (
        <>
          <SelectBox
            label="Switch that is looked at"
            className="w-34"
            value={String(walk.at)}
            options={switches.levels
              .slice(1)
              .map(({ index }) => ({ value: String(index), label: `LOD${index - 1} → LOD${index}` }))}
            onChange={(value) => walk.setAt(Number(value))}
          />
          <Button
            pressed={walk.enlarged}
            onClick={() => walk.setEnlarged(!walk.enlarged)}
            title="every pixel of the game drawn larger, so that it can be looked at (Z)"
          >
            Enlarged
          </Button>
        </>
      )}
      <Reading walk={walk} distance={distance} blinksOther={blinksOther} />
      <Button kind="quiet" className="ml-auto" onClick={walk.stop} title="back to the levels (Esc)">
        Done
      </Button>
    </div>
  );
}

/** In plain words: the level, its triangles, and how much changed at the last switch. */
function Reading({ walk, distance, blinksOther }: { walk: Walk; distance: number; blinksOther: boolean }) {
  const { switches } = walk;
  if (!switches) return null;
  const costOf = (index: number) => {
    const level = switches.levels[index];
    return level ? pixelsOf(switches.view, visibleStep(level), level.distance / switches.bias) : 0;
  };
  const level = switches.levels[walk.seen === "off" ? walk.drawn : walk.at];
  if (walk.seen === "off") {
    return (
      <Lines
        first={`${metres(distance)} · ${level ? `LOD${level.index} · ${count(level.triangles)} tris` : "not drawn"}`}
        second={
          walk.passed !== null &&
          `last switch to ${level ? `LOD${level.index}` : "nothing"}: ${pixels(costOf(walk.passed))} changed`
        }
      />
    );
  }
  return (
    <Lines
      first={
        walk.seen === "blink" ? (
          `${metres(distance)} · LOD${blinksOther ? walk.at : walk.at - 1}`
        ) : (
          <>
            {metres(distance)} · LOD{walk.at - 1} against LOD{walk.at}{" "}
            <span className="font-sans">
              <span style={{ color: OUTLINE }}>■</span> silhouette <span style={{ color: SHADING }}>■</span> shading
            </span>
          </>
        )
      }
      second={`at its switch ${metres(level?.distance ?? 0)} up to ${pixels(costOf(walk.at))} change`}
    />
  );
}

/** What is read off the walk, in two lines that keep their room. */
function Lines({ first, second }: { first: ReactNode; second: ReactNode }) {
  return (
    <p className="figure h-8 min-w-72 text-sm leading-4 whitespace-nowrap" role="status">
      <span className="block">{first}</span> <span className="block text-quiet">{second}</span>
    </p>
  );
}
