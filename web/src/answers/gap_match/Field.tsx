import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Name } from "../../shared/Name";
import { Gaps, Prose } from "../../shared/Prose";
import { type FieldProps, fieldsOf, withField } from "../kinds";
import { Told } from "../Told";
import { DragArea, Spot, Tile } from "../tiles/Tiles";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

/** Tiles that are put into gaps: dragged, or a tile pressed and then its gap. */
export default function Field(props: FieldProps<"gap_match">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const given = fieldsOf(props.value);
  const [picked, setPicked] = useState<string | null>(null);
  const used = new Set(Object.values(given));
  const left = entry.tiles.filter((t) => entry.reuse || !used.has(t.id));
  const put = (gap: string, tile: string) => {
    const taken = Object.entries(given).filter(([id, held]) => id !== gap && (entry.reuse || held !== tile));
    onChange(withField(Object.fromEntries(taken), gap, tile));
    setPicked(null);
  };
  const press = (gap: string) => {
    const held = given[gap];
    if (picked) put(gap, picked);
    else if (held) {
      onChange(withField(given, gap, ""));
      setPicked(held);
    }
  };
  const fill = (at: Schemas["GapView"]) => {
    const tile = entry.tiles.find((t) => t.id === given[at.id]);
    const member = props.members.find((m) => m.id === at.id);
    return (
      <Spot place={at.id} off={disabled} className={classes.spot}>
        <button
          type="button"
          className={classes.gap}
          data-gap={at.id}
          data-full={Boolean(tile)}
          data-waits={Boolean(picked) && !tile}
          disabled={disabled}
          onClick={() => press(at.id)}
        >
          <span className="only-spoken">Gap {entry.gaps.indexOf(at.id) + 1}: </span>
          {tile ? <Name content={tile.text} /> : <span className="only-spoken">empty</span>}
        </button>
        {member && <Told right={member.right} />}
      </Spot>
    );
  };
  return (
    <DragArea onDrop={(tile, gap) => put(gap, tile)}>
      {/* biome-ignore lint/a11y/useSemanticElements: a passage is no set of form fields with a legend */}
      <div role="group" aria-label="Gaps and tiles" data-part={name}>
        <div className={classes.passage}>
          <Gaps.Provider value={fill}>
            <Prose blocks={entry.passage} />
          </Gaps.Provider>
        </div>
        {(!disabled || left.length > 0) && (
          <>
            {!disabled && (
              <p className={tiles.hint}>
                {picked ? "Now press the gap it goes into." : "Press a tile, then its gap; or drag it there."}
                {entry.reuse && " A tile can be used more than once."}
              </p>
            )}
            <div className={tiles.tray}>
              {left.map((tile) => (
                <Tile
                  key={tile.id}
                  id={tile.id}
                  picked={picked === tile.id}
                  disabled={disabled}
                  onClick={() => setPicked(picked === tile.id ? null : tile.id)}
                >
                  <Name content={tile.text} />
                </Tile>
              ))}
              {left.length === 0 && <span className={tiles.hint}>Every tile is in place.</span>}
            </div>
          </>
        )}
      </div>
    </DragArea>
  );
}
