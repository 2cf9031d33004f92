import { UnstyledButton } from "@mantine/core";
import type { Schemas } from "../../api/client";
import classes from "./Field.module.css";

type Props = {
  keys: Schemas["KeyView"][];
  shown: boolean;
  onType: (text: string, back: number) => void;
};

/** The keys under a field, for what a keyboard lacks. */
export function Keys({ keys, shown, onType }: Props) {
  return (
    <div className={classes.keys} data-shown={shown} role="toolbar" aria-label="Keys for this answer">
      {keys.map((key) => (
        <UnstyledButton
          key={key.says}
          className={classes.key}
          aria-label={key.shows === key.says ? key.says : `${key.shows}, ${key.says}`}
          tabIndex={shown ? 0 : -1}
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => onType(key.types, key.back)}
        >
          {key.shows}
        </UnstyledButton>
      ))}
    </div>
  );
}
