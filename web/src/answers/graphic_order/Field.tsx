import type { FieldProps } from "../kinds";
import { PictureArea, ToldAt } from "../picture/Picture";
import picture from "../picture/Picture.module.css";
import tiles from "../tiles/Tiles.module.css";

/** Places on a picture that are numbered in order: each press gives the next number, a press on a number takes it back. */
export default function Field(props: FieldProps<"graphic_order">) {
  const { part, name = part, entry, value, disabled, onChange } = props;
  const order = value && typeof value === "object" && "order" in value ? value.order : [];
  const press = (id: string) =>
    onChange({ order: order.includes(id) ? order.filter((o) => o !== id) : [...order, id] });
  const left = entry.picture.spots.length - order.length;
  return (
    // biome-ignore lint/a11y/useSemanticElements: places on a picture are no form fields with a legend
    <div role="group" aria-label="Places to put in order" data-part={name}>
      {!disabled && (
        <p className={tiles.hint} aria-live="polite">
          {left > 0
            ? `Press the places in order; next comes number ${order.length + 1}.`
            : "Every place has its number. Press one to take it back."}
        </p>
      )}
      <PictureArea picture={entry.picture}>
        {(spot) => {
          const at = order.indexOf(spot.id);
          return (
            <>
              <button
                type="button"
                className={picture.place}
                data-spot={spot.id}
                data-full={at >= 0}
                aria-label={`${spot.label}: ${at >= 0 ? `number ${at + 1}` : "no number yet"}`}
                title={spot.label}
                disabled={disabled}
                onClick={() => press(spot.id)}
              >
                {at >= 0 ? at + 1 : ""}
              </button>
              <ToldAt right={props.members.find((m) => m.id === spot.id)?.right} />
            </>
          );
        }}
      </PictureArea>
    </div>
  );
}
