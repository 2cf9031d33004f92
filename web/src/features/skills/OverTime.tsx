import { SegmentedControl } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { levelWords } from "../../shared/states";
import { CourseTable } from "./CourseTable";
import { LazyCourse } from "./LazyCourse";
import classes from "./SkillsPage.module.css";

/** Every skill that was begun, with how its score went; as charts or as tables. */
export function OverTime({ view }: { view: Schemas["SkillsView"] }) {
  const [tables, setTables] = useState(false);
  const begun = view.skills.filter((s) => s.course.length > 0);
  const from = begun.flatMap((s) => s.course.slice(0, 1).map((p) => p.at)).sort()[0];
  if (!from) return <p>Nothing yet. Each skill's line begins with your first check on it.</p>;
  return (
    <>
      <SegmentedControl
        aria-label="Charts or tables"
        size="sm"
        value={tables ? "tables" : "charts"}
        onChange={(value) => setTables(value === "tables")}
        data={[
          { value: "charts", label: "As charts" },
          { value: "tables", label: "As tables" },
        ]}
        className={`${classes.switch} ${classes.second}`}
      />
      <div className={classes.courses}>
        {begun.map((skill) => (
          <section key={skill.id} aria-label={skill.title}>
            <h2>
              <Link to="/skills" search={{ skill: skill.id }}>
                {skill.title}
              </Link>{" "}
              <span className={classes.dim}>
                {levelWords[skill.level]}, {skill.score}
              </span>
            </h2>
            {tables ? (
              <CourseTable title={skill.title} course={skill.course} />
            ) : (
              <LazyCourse title={skill.title} course={skill.course} from={from} now={view.now} />
            )}
          </section>
        ))}
      </div>
    </>
  );
}
