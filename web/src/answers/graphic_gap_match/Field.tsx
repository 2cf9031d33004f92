import { useState } from "react";
import { Name } from "../../shared/Name";
import { type FieldProps, fieldsOf, withField } from "../kinds";
import { PictureArea, ToldAt } from "../picture/Picture";
import picture from "../picture/Picture.module.css";
import { DragArea, Spot, Tile } from "../tiles/Tiles";
import tiles from "../tiles/Tiles.module.css";

/** Places on a picture that are labelled with tiles: dragged, or a tile pressed and then its place. */
export default function Field(props: FieldProps<"graphic_gap_match">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const given = fieldsOf(props.value);
  const [picked, setPicked] = useState<string | null>(null);
  const used = new Set(Object.values(given));
  const left = entry.tiles.filter((t) => entry.reuse || !used.has(t.id));
  const put = (spot: string, tile: string) => {
    const taken = Object.entries(given).filter(([id, held]) => id !== spot && (entry.reuse || held !== tile));
    onChange(withField(Object.fromEntries(taken), spot, tile));
    setPicked(null);
  };
  const press = (spot: string) => {
    const held = given[spot];
    if (picked) put(spot, picked);
    else if (held) {
      onChange(withField(given, spot, ""));
      setPicked(held);
    }
  };
  return (
    <DragArea onDrop={(tile, spot) => put(spot, tile)}>
      {/* biome-ignore lint/a11y/useSemanticElements: places on a picture are no form fields with a legend */}
      <div role="group" aria-label="Places to label" data-part={name}>
        {!disabled && (
          <p className={tiles.hint}>
            {picked
              ? "Now press its place on the picture."
              : "Press a label, then its place; or drag it there."}
          </p>
        )}
        <PictureArea picture={entry.picture}>
          {(spot) => {
            const tile = entry.tiles.find((t) => t.id === given[spot.id]);
            return (
              <Spot place={spot.id} off={disabled}>
                <button
                  type="button"
                  className={picture.place}
                  data-spot={spot.id}
                  data-label={Boolean(tile)}
                  data-waits={Boolean(picked) && !tile}
                  title={spot.label}
                  disabled={disabled}
                  onClick={() => press(spot.id)}
                >
                  <span className="only-spoken">{spot.label}: </span>
                  {tile ? <Name content={tile.text} /> : <span className="only-spoken">no label yet</span>}
                </button>
                <ToldAt right={props.members.find((m) => m.id === spot.id)?.right} />
              </Spot>
            );
          }}
        </PictureArea>
        {left.length > 0 && (
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
          </div>
        )}
      </div>
    </DragArea>
  );
}
