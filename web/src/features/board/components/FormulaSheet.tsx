import type { Schemas } from "../../../api/client";
import { Maths } from "../../../shared/Maths";
import classes from "./Margin.module.css";

/** The formulas of a class. */
export function FormulaSheet({ sheet }: { sheet: Schemas["FormulaSheet"] }) {
  return (
    <>
      {sheet.groups.map((group) => (
        <section key={group.title}>
          <h3 className={classes.head}>{group.title}</h3>
          <dl className={classes.formulas}>
            {group.formulas.map((formula) => (
              <div key={formula.latex}>
                <dt>
                  <Maths latex={formula.latex} />
                </dt>
                <dd>{formula.words}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </>
  );
}
