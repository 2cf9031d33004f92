import { useState } from "react";
import { Name } from "../../shared/Name";
import { Line } from "../../shared/Prose";
import { type FieldProps, fieldsOf, type Label, withField } from "../kinds";
import { Told } from "../Told";
import { DragArea, Spot, Tile } from "../tiles/Tiles";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

/** Items that are sorted into groups: dragged, or an item pressed and then its group. */
export default function Field(props: FieldProps<"group">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const given = fieldsOf(props.value);
  const [picked, setPicked] = useState<string | null>(null);
  const put = (item: string, group: string) => {
    onChange(withField(given, item, group));
    setPicked(null);
  };
  const tile = (item: Label) => {
    const member = props.members.find((m) => m.id === item.id);
    return (
      <span key={item.id} className={classes.item}>
        <Tile
          id={item.id}
          picked={picked === item.id}
          disabled={disabled}
          onClick={() => setPicked(picked === item.id ? null : item.id)}
        >
          <Name content={item.text} />
        </Tile>
        {member && <Told right={member.right} />}
      </span>
    );
  };
  const unsorted = entry.items.filter((i) => !given[i.id]);
  const chosen = entry.items.find((i) => i.id === picked);
  return (
    <DragArea onDrop={(item, group) => put(item, group === "tray" ? "" : group)}>
      {/* biome-ignore lint/a11y/useSemanticElements: groups of items are no form fields with a legend */}
      <div role="group" aria-label="Items to sort" data-part={name}>
        {!disabled && (
          <p className={tiles.hint}>
            {picked
              ? "Now press the group it belongs to."
              : "Press an item, then its group; or drag it there."}
          </p>
        )}
        {unsorted.length > 0 && (
          <Spot place="tray" off={disabled} className={tiles.tray}>
            {unsorted.map(tile)}
          </Spot>
        )}
        <div className={classes.groups}>
          {entry.groups.map((group) => (
            <Spot
              key={group.id}
              place={group.id}
              off={disabled}
              className={classes.group}
              data-group={group.id}
              data-waits={Boolean(picked)}
            >
              <p className={classes.title}>
                <Line content={group.text} />
              </p>
              {entry.items.filter((i) => given[i.id] === group.id).map(tile)}
              {!disabled && (
                <button
                  type="button"
                  className={classes.here}
                  disabled={!chosen || given[chosen.id] === group.id}
                  onClick={() => chosen && put(chosen.id, group.id)}
                >
                  Put it here
                  <span className="only-spoken">
                    {" "}
                    into <Line content={group.text} />
                  </span>
                </button>
              )}
            </Spot>
          ))}
        </div>
      </div>
    </DragArea>
  );
}
