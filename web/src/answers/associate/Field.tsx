import { useState } from "react";
import { Name } from "../../shared/Name";
import { Line } from "../../shared/Prose";
import { type FieldProps, pairsOf } from "../kinds";
import { Told } from "../Told";
import { DragArea, Spot, Tile } from "../tiles/Tiles";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

/** Items that are joined in pairs: one pressed, then the other; or one dragged onto the other. */
export default function Field(props: FieldProps<"associate">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const pairs = pairsOf(props.value);
  const [picked, setPicked] = useState<string | null>(null);
  const left = entry.items.filter((i) => !pairs.flat().includes(i.id));
  const text = (id: string | undefined) => entry.items.find((i) => i.id === id)?.text ?? [];
  const join = (a: string, b: string) => {
    setPicked(null);
    if (a !== b) onChange({ pairs: [...pairs, [a, b]] });
  };
  const press = (id: string) => {
    if (picked && picked !== id) join(picked, id);
    else setPicked(picked === id ? null : id);
  };
  const told = ([a, b]: string[]) => {
    const member = props.members.find((m) => m.id === `${a}=${b}`);
    return member && <Told right={member.right} />;
  };
  const open = entry.pairs - pairs.length;
  return (
    <DragArea onDrop={join}>
      {/* biome-ignore lint/a11y/useSemanticElements: pairs of items are no form fields with a legend */}
      <div role="group" aria-label="Items to join in pairs" data-part={name}>
        {!disabled && (
          <p className={tiles.hint}>
            {picked
              ? "Now press what belongs to it."
              : open > 0
                ? `Press two that belong together; or drag one onto the other. ${open === 1 ? "One pair" : `${open} pairs`} to go.`
                : "That is every pair."}
          </p>
        )}
        {left.length > 0 && (
          <div className={tiles.tray}>
            {left.map((item) => (
              <Spot key={item.id} place={item.id} off={disabled}>
                <Tile
                  id={item.id}
                  picked={picked === item.id}
                  disabled={disabled || open <= 0}
                  onClick={() => press(item.id)}
                >
                  <Name content={item.text} />
                </Tile>
              </Spot>
            ))}
          </div>
        )}
        <ul className={classes.pairs}>
          {pairs.map((pair) => (
            <li key={pair.join("=")}>
              <span>
                <Line content={text(pair[0])} /> – <Line content={text(pair[1])} />
              </span>
              {told(pair)}
              {!disabled && (
                <button
                  type="button"
                  className={classes.apart}
                  onClick={() => onChange({ pairs: pairs.filter((p) => p !== pair) })}
                >
                  Separate
                  <span className="only-spoken">
                    {" "}
                    <Line content={text(pair[0])} /> and <Line content={text(pair[1])} />
                  </span>
                </button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </DragArea>
  );
}
