import { Menu, Modal, UnstyledButton, useMantineColorScheme } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { api, ask } from "../api/client";
import { meQuery } from "../features/sign-in/queries";
import { FirstLines } from "../features/welcome/FirstLines";
import { ShortcutList } from "../shared/ShortcutList";
import classes from "./Frame.module.css";

/** With its typeset examples it weighs more than most pages: it comes when it is asked for. */
const TypingGuide = lazy(() => import("../shared/TypingGuide").then((m) => ({ default: m.TypingGuide })));

type Props = {
  /** Where you are, outermost first; the last one is here. */
  trail?: { label: string; to?: string }[];
  /** What the window is called, where there is no trail. */
  title?: string;
  saved?: ReactNode;
  children: ReactNode;
  wide?: boolean;
};

/** The places of the top bar; on a phone they stand in the person's menu too. */
const places = [
  { to: "/", label: "Week" },
  { to: "/skills", label: "Skills" },
  { to: "/slips", label: "Slip book" },
  { to: "/scores", label: "Scores" },
] as const;

/** A teacher's places. */
const teachersPlaces = [
  { to: "/classes", label: "Classes" },
  { to: "/marking", label: "Marking" },
  { to: "/bank", label: "Bank" },
] as const;

type Place = { to: string; label: string };

/** Who teaches one class and studies in another has both; what they teach comes first. */
function placesOf(me: { role: string; studies: boolean } | undefined): readonly Place[] {
  if (me?.role !== "teacher") return places;
  return me.studies ? [...teachersPlaces, ...places] : teachersPlaces;
}

/** What the window is called: the innermost place first, the product last. */
function useTitle(places: string[]) {
  const title = [...places].reverse().concat("Green Slate").join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}

/** The slate bar over every page, and the page below it. */
export function Frame({ trail = [], title, saved, children, wide = false }: Props) {
  useTitle(trail.length > 0 ? trail.map((step) => step.label) : title ? [title] : []);
  const { data: me } = useQuery(meQuery());
  const shown = placesOf(me);
  return (
    <div className={classes.frame} data-as-student={me?.as_student || undefined}>
      <a className={classes.skip} href="#content">
        Skip to the content
      </a>
      <header className={classes.bar} data-work={wide}>
        <Link to="/" className={classes.wordmark}>
          Green Slate
        </Link>
        <nav aria-label="Main" className={classes.nav}>
          {shown.map((place) => (
            <Link
              key={place.to}
              to={place.to}
              activeProps={{ "aria-current": "page" }}
              activeOptions={{ exact: place.to === "/" }}
            >
              {place.label}
            </Link>
          ))}
        </nav>
        {trail.length > 0 && (
          <nav aria-label="Where you are" className={classes.trail}>
            {trail.map((step) => (
              <span key={step.label}>
                {step.to ? (
                  <Link to={step.to}>{step.label}</Link>
                ) : (
                  <span aria-current="page">{step.label}</span>
                )}
              </span>
            ))}
          </nav>
        )}
        <span className={classes.space} />
        {saved}
        {me && me.unread > 0 && (
          <Link to="/messages" className={classes.unread}>
            <svg className={classes.onlyNarrow} viewBox="0 0 16 12" width={16} height={12} aria-hidden>
              <path d="M1 1h14v10H1zl7 6 7-6" fill="none" stroke="currentColor" strokeWidth={1.5} />
            </svg>
            {me.unread}
            <span className={classes.full}> {me.unread === 1 ? "new message" : "new messages"}</span>
          </Link>
        )}
        <HelpButton />
        {me && <PersonMenu name={me.display_name} places={shown} />}
      </header>
      {me?.as_student && <AsStudent />}
      <main id="content" className={wide ? classes.wide : classes.page}>
        {me && !wide && <FirstLines me={me} />}
        {children}
      </main>
    </div>
  );
}

/** Said over every page that a teacher sees as a made-up student. */
function AsStudent() {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const end = async () => {
    await ask(api.DELETE("/api/as-student"));
    queryClient.clear();
    await navigate({ to: "/classes" });
  };
  return (
    <aside className={classes.asStudent} aria-label="As a student sees it">
      You see this as a made-up student of the class. Nothing you do here is kept.
      <button type="button" onClick={() => void end()}>
        Back to my desk
      </button>
    </aside>
  );
}

/** How to type answers, from anywhere. */
function HelpButton() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <UnstyledButton className={classes.help} onClick={() => setOpen(true)} aria-label="Help with typing">
        ?
      </UnstyledButton>
      <Modal
        opened={open}
        onClose={() => setOpen(false)}
        size="lg"
        title="Typing guide"
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {open && (
          <Suspense fallback={null}>
            <TypingGuide />
          </Suspense>
        )}
      </Modal>
    </>
  );
}

function PersonMenu({ name, places: shown }: { name: string; places: readonly Place[] }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const [keys, setKeys] = useState(false);
  const signOut = async () => {
    try {
      await api.DELETE("/api/session");
    } finally {
      queryClient.clear();
      await navigate({ to: "/sign-in", search: {} });
    }
  };
  const schemes = [
    ["auto", "Match the system"],
    ["light", "Light slate"],
    ["dark", "Night slate"],
  ] as const;
  return (
    <>
      <ShortcutList opened={keys} onClose={() => setKeys(false)} />
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <UnstyledButton
            className={classes.person}
            data-initials={name
              .split(/\s+/)
              .map((word) => word.slice(0, 1))
              .join("")}
          >
            <span className={classes.full}>{name}</span>
          </UnstyledButton>
        </Menu.Target>
        <Menu.Dropdown>
          {shown.map((place) => (
            <Menu.Item key={place.to} component={Link} to={place.to} className={classes.onlyNarrow}>
              {place.label}
            </Menu.Item>
          ))}
          <Menu.Item component={Link} to="/messages">
            Messages
          </Menu.Item>
          <Menu.Item component={Link} to="/own">
            Your data
          </Menu.Item>
          <Menu.Item onClick={() => setKeys(true)}>Keyboard shortcuts</Menu.Item>
          {schemes.map(([scheme, label]) => (
            <Menu.Item key={scheme} onClick={() => setColorScheme(scheme)}>
              {label}
              {colorScheme === scheme ? " (now)" : ""}
            </Menu.Item>
          ))}
          <Menu.Divider />
          <Menu.Item onClick={signOut}>Sign out</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </>
  );
}
