import "@mantine/core/styles/Slider.css";
import { Slider, TextInput } from "@mantine/core";
import { useRef } from "react";
import type { FieldProps } from "../kinds";
import { fieldInUse } from "../typed/inUse";
import { ReadsAs } from "../typed/ReadsAs";
import { useTyping } from "../typed/useTyping";
import classes from "./Field.module.css";

/** A value on a scale: dragged, set by arrow keys, or typed; both stay in step. */
export default function Field(props: FieldProps<"slider">) {
  const { assignment, question, part, name = part, entry, disabled, onChange } = props;
  const text = typeof props.value === "string" ? props.value : "";
  const { input, typeResult } = useTyping(onChange);
  const { scale, isMeant, press, letGo } = useOnlyWhenMeant();
  const number = Number(text.replace(",", "."));
  const onScale = text.trim() !== "" && Number.isFinite(number);
  const show = (n: number) => n.toFixed(entry.places);
  const unit = entry.unit ? ` ${entry.unit}` : "";
  const middle = (entry.from + entry.to) / 2;
  const marks = [entry.from, middle, entry.to].map((value) => ({
    value,
    label: Number(value.toFixed(6)).toString(),
  }));
  const readsId = `reads-${question}-${name}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a scale with its field is no set of form fields with a legend
    <div role="group" aria-label={entry.label} data-part={name}>
      <div className={classes.slider}>
        <div
          ref={scale}
          className={classes.scale}
          onPointerDownCapture={() => {
            input.current?.blur();
            press();
          }}
        >
          <Slider
            min={entry.from}
            max={entry.to}
            step={entry.step}
            value={onScale ? Math.min(Math.max(number, entry.from), entry.to) : entry.from}
            disabled={disabled}
            marks={marks}
            label={(v) => (onScale ? `${show(v)}${unit}` : "not set yet")}
            thumbLabel={`${entry.label}${unit ? ` in${unit}` : ""}`}
            thumbProps={{
              "aria-valuetext": onScale ? `${text}${unit}` : "not set yet",
            }}
            // The last frame of a drag must not come over what is being typed already, nor any movement after it.
            onChange={(v) => isMeant() && document.activeElement !== input.current && onChange(show(v))}
          />
        </div>
        <div className={classes.value}>
          <TextInput
            ref={input}
            className={classes.typed}
            label={entry.label}
            value={text}
            disabled={disabled}
            error={props.invalid}
            inputMode="decimal"
            autoComplete="off"
            spellCheck={false}
            maxLength={200}
            aria-describedby={readsId}
            onFocus={() => {
              // Whoever types holds the scale no longer, even where the release was never told (outside the window).
              letGo();
              fieldInUse(typeResult);
            }}
            onChange={(e) => onChange(e.currentTarget.value)}
          />
          {entry.unit && <span className={classes.unit}>{entry.unit}</span>}
        </div>
      </div>
      {!disabled && (
        <ReadsAs
          assignment={assignment}
          question={question}
          part={part}
          name={name}
          entry={text}
          id={readsId}
        />
      )}
    </div>
  );
}

/** Whether the scale is moved on purpose: held by a pointer, or where the keys go. */
function useOnlyWhenMeant() {
  const scale = useRef<HTMLDivElement | null>(null);
  const held = useRef<AbortController | null>(null);
  const letGo = () => {
    held.current?.abort();
    held.current = null;
  };
  const press = () => {
    letGo();
    const hold = new AbortController();
    held.current = hold;
    const released = () => {
      // Its last movement is taken in with the next frame.
      requestAnimationFrame(() =>
        requestAnimationFrame(() => {
          if (held.current === hold) letGo();
        }),
      );
    };
    const { signal } = hold;
    window.addEventListener("pointerup", released, { signal });
    window.addEventListener("pointercancel", released, { signal });
    // Moving without a button: it was released where nobody told this page.
    window.addEventListener("pointermove", (e) => e.buttons === 0 && letGo(), { signal, capture: true });
  };
  const isMeant = () => held.current !== null || Boolean(scale.current?.contains(document.activeElement));
  return { scale, isMeant, press, letGo };
}
