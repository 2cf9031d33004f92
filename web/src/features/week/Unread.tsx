import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { meQuery } from "../sign-in/queries";
import classes from "./WeekPage.module.css";

/** Messages that were not read yet. */
export function Unread() {
  const { data: me } = useQuery(meQuery());
  if (!me || me.unread === 0) return null;
  return (
    <aside className={classes.side} aria-label="Messages" data-testid="unread">
      <h2>Messages</h2>
      <p>
        <Link to="/messages">
          {me.unread === 1 ? "One message" : `${me.unread} messages`} you have not read
        </Link>
      </p>
    </aside>
  );
}
