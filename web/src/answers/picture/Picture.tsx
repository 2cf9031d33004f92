import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { Figure } from "../../shared/Figure";
import { Told } from "../Told";
import classes from "./Picture.module.css";

type Picture = Schemas["PlacesView"];

/** A picture with its places; they keep to it whatever its size. */
export function PictureArea({
  picture,
  children,
}: {
  picture: Picture;
  children: (spot: Picture["spots"][number]) => ReactNode;
}) {
  const { width, height } = picture.drawing;
  return (
    <div className={classes.picture} style={{ maxWidth: width }}>
      <Figure drawing={picture.drawing} />
      {picture.spots.map((spot) => (
        <div
          key={spot.id}
          className={classes.spot}
          style={{
            left: `${(100 * spot.x) / width}%`,
            top: `calc(4px + (100% - 16px) * ${spot.y / height})`,
          }}
        >
          {children(spot)}
        </div>
      ))}
    </div>
  );
}

/** Whether what is at a place is right. */
export function ToldAt({ right }: { right: boolean | undefined }) {
  if (right === undefined) return null;
  return (
    <span className={classes.told}>
      <Told right={right} />
    </span>
  );
}
