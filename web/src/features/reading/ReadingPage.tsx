import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { levelWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { PageReader } from "./PageReader";
import { keepPlace, pageQuery } from "./queries";
import classes from "./Reading.module.css";

/** The reading page of a skill. */
export function ReadingPage() {
  const { skill } = useParams({ from: "/signed-in/read/$skill" });
  const page = useQuery(pageQuery(skill));
  const title = page.data?.skill.title;
  return (
    <Frame trail={[...(title ? [{ label: title, to: `/skills?skill=${skill}` }] : []), { label: "Reading" }]}>
      {page.error && <Trouble heading={page.data ? undefined : "This page"} error={page.error} />}
      {page.isPending && <Skeleton height={480} aria-label="Loading the page" />}
      {page.data && <Sheet key={skill} page={page.data} />}
    </Frame>
  );
}

function Sheet({ page }: { page: Schemas["PageView"] }) {
  const search = useSearch({ from: "/signed-in/read/$skill" });
  const navigate = useNavigate();
  const skill = page.skill.id;
  const whole = search.whole === true;
  const step = Math.min(search.step ? search.step - 1 : page.step, page.steps.length - 1);
  const go = (next: { step?: number; whole?: true }) =>
    navigate({ to: "/read/$skill", params: { skill }, search: next });
  return (
    <div className={classes.page}>
      <nav aria-label="Steps of the page" className={classes.steps}>
        <h1>{page.skill.title}</h1>
        <p className={classes.dim}>
          {page.class} · about {page.minutes} min
        </p>
        <p className={classes.dim}>
          Your level: {levelWords[page.skill.level]}
          {page.skill.level !== "new" && `, ${page.skill.score}`}
          {page.read_at && ` · read ${moment(page.read_at)}`}
        </p>
        <ol>
          {page.steps.map((one, n) => (
            <li key={one.title}>
              <button
                type="button"
                aria-current={!whole && n === step ? "step" : undefined}
                onClick={() => {
                  void keepPlace(skill, n, false).catch(() => undefined);
                  void go({ step: n + 1 });
                }}
              >
                {one.title}
              </button>
            </li>
          ))}
        </ol>
      </nav>
      <article className={classes.sheet}>
        <PageReader
          page={page}
          step={step}
          whole={whole}
          onStep={(n) => go({ step: n + 1 })}
          onWhole={(w) => go(w ? { whole: true } : { step: step + 1 })}
        />
      </article>
    </div>
  );
}
