import type { FieldProps } from "../kinds";
import { PictureArea, ToldAt } from "../picture/Picture";
import picture from "../picture/Picture.module.css";
import tiles from "../tiles/Tiles.module.css";

/** Places that are marked on a picture. */
export default function Field(props: FieldProps<"hotspot">) {
  const { part, name = part, entry, value, disabled, onChange } = props;
  const marked = Array.isArray(value) ? value : [];
  const toggle = (id: string) => {
    if (!entry.several) return onChange(marked.includes(id) ? [] : [id]);
    const now = marked.includes(id) ? marked.filter((m) => m !== id) : [...marked, id];
    const order = entry.picture.spots.map((s) => s.id);
    onChange(now.sort((a, b) => order.indexOf(a) - order.indexOf(b)));
  };
  const told = (id: string) =>
    props.members.find((m) => m.id === id)?.right ?? (props.wrongBefore.includes(id) ? false : undefined);
  return (
    // biome-ignore lint/a11y/useSemanticElements: places on a picture are no form fields with a legend
    <div role="group" aria-label="Places on the picture" data-part={name}>
      {!disabled && (
        <p className={tiles.hint}>
          {entry.several
            ? "Press every place that you want to mark."
            : "Press the place that you want to mark."}
        </p>
      )}
      <PictureArea picture={entry.picture}>
        {(spot) => (
          <>
            <button
              type="button"
              className={picture.place}
              data-spot={spot.id}
              data-full={marked.includes(spot.id)}
              aria-pressed={marked.includes(spot.id)}
              aria-label={spot.label}
              title={spot.label}
              disabled={disabled}
              onClick={() => toggle(spot.id)}
            >
              {marked.includes(spot.id) ? "×" : ""}
            </button>
            <ToldAt right={told(spot.id)} />
          </>
        )}
      </PictureArea>
    </div>
  );
}
