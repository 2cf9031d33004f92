import "@mantine/dates/styles.css";
import { Button, Checkbox, NumberInput, Skeleton } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { LooseSheet } from "../loose/LooseSheet";
import { meQuery } from "../sign-in/queries";
import { findReview, keepReview, type Review, reviewChoicesQuery } from "./queries";
import classes from "./ReviewPage.module.css";

/** A review for a test, drawn from one's slips. Nothing of it is recorded. */
export function ReviewPage() {
  const choices = useQuery(reviewChoicesQuery());
  const { data: me } = useQuery(meQuery());
  return (
    <Frame trail={[{ label: "Slip book", to: "/slips" }, { label: "Review for a test" }]}>
      <h1>Review for a test</h1>
      {choices.error && <Trouble error={choices.error} />}
      {(choices.isPending || !me) && <Skeleton height={320} mt={20} aria-label="Loading" />}
      {choices.data && me && <Loaded choices={choices.data} person={me.user_name} />}
    </Frame>
  );
}

function Loaded({ choices, person }: { choices: Schemas["ReviewChoices"]; person: string }) {
  const [review, setReview] = useState<Review | null>(() => findReview(person));
  const take = (next: Review | null) => {
    keepReview(person, next);
    setReview(next);
  };
  if (review) return <Sheet review={review} onChange={take} />;
  if (choices.classes.length === 0) {
    return (
      <p>
        {choices.kept_for_quizzes > 0
          ? "The questions you slipped up on are kept for a quiz that is still open. Once its results are out, you can draw a review from them here."
          : "There is nothing in your slip book yet that can be tried on fresh numbers. After a wrong answer you can draw a review from it here."}
      </p>
    );
  }
  return <Form choices={choices} onDrawn={take} />;
}

/** The day of an instant, as the reader's clock has it, for a date field. */
function day(instant: string): string {
  const date = new Date(instant);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
}

/** The first instant of a day, and of the one after it. */
const beginning = (of: string) => new Date(`${of}T00:00`);
const ending = (of: string) => {
  const next = beginning(of);
  next.setDate(next.getDate() + 1);
  return next;
};

type FormProps = { choices: Schemas["ReviewChoices"]; onDrawn: (review: Review) => void };

function Form({ choices, onDrawn }: FormProps) {
  const all = choices.classes.map((c) => c.title);
  const earliest = choices.classes.map((c) => c.first).sort()[0] ?? choices.now;
  const [classesChosen, setClasses] = useState(all);
  const [from, setFrom] = useState<string | null>(day(earliest));
  const [to, setTo] = useState<string | null>(day(choices.now));
  const [length, setLength] = useState<string | number>(10);
  const draw = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/review", {
          body: {
            classes: classesChosen,
            from: from ? beginning(from).toISOString() : null,
            until: to ? ending(to).toISOString() : null,
            length: Number(length),
          },
        }),
      ),
    onSuccess: (drawn) => {
      if (drawn.questions.length > 0) {
        onDrawn({ ...drawn, answers: drawn.questions.map(() => null), at: 0 });
      }
    },
  });
  return (
    <form
      className={classes.form}
      onSubmit={(e) => {
        e.preventDefault();
        draw.mutate();
      }}
    >
      <p>
        Questions you got wrong, on fresh numbers: open slips first, then those you got wrong most often
        often. Nothing of it is recorded, and no score changes.
      </p>
      <Checkbox.Group label="From these classes" value={classesChosen} onChange={setClasses}>
        <div className={classes.classes}>
          {choices.classes.map((c) => (
            <Checkbox
              key={c.title}
              value={c.title}
              label={`${c.title} (${c.questions === 1 ? "1 question" : `${c.questions} questions`})`}
              color="moss"
            />
          ))}
        </div>
      </Checkbox.Group>
      <div className={classes.dates}>
        <DatePickerInput
          label="Slips from"
          value={from}
          maxDate={to ?? undefined}
          valueFormat="dddd D MMM"
          onChange={setFrom}
        />
        <DatePickerInput
          label="up to and including"
          value={to}
          minDate={from ?? undefined}
          valueFormat="dddd D MMM"
          onChange={setTo}
        />
        <NumberInput
          label="Questions"
          value={length}
          onChange={setLength}
          min={1}
          max={choices.longest}
          allowDecimal={false}
        />
      </div>
      {draw.error && <Trouble error={draw.error} />}
      {draw.data?.questions.length === 0 && (
        <p className={classes.caution} role="status">
          No slips of these classes lie between these days. Choose more classes or an earlier day.
        </p>
      )}
      <Button type="submit" loading={draw.isPending} disabled={classesChosen.length === 0}>
        Create the review
      </Button>
    </form>
  );
}

type SheetProps = { review: Review; onChange: (review: Review | null) => void };

function Sheet({ review, onChange }: SheetProps) {
  const { questions, answers, at } = review;
  const question = questions[at];
  const answered = answers.filter((a) => a !== null).length;
  const right = answers.filter((a) => a === true).length;
  const again = review.different < questions.length;
  return (
    <>
      <p className={classes.dim} data-testid="review-so-far">
        {questions.length} questions
        {again &&
          (review.different === 1
            ? " (the same one, with new numbers each time)"
            : ` (${review.different} different, some repeated with new numbers)`)}{" "}
        · {answered} answered, {right} right · nothing is recorded
      </p>
      {question ? (
        <article className={classes.sheet}>
          <h2>
            Question {at + 1} of {questions.length}: {question.title}
          </h2>
          <p className={classes.dim}>
            {question.slips === 1 ? "one slip" : `${question.slips} slips`}
            {question.open ? ", still open" : ", mended"}
          </p>
          <LooseSheet
            key={at}
            source={{ from: "review", review: review.id, place: at }}
            prefix=""
            once
            onEnd={(wasRight) =>
              onChange({ ...review, answers: answers.map((a, i) => (i === at ? wasRight : a)) })
            }
            after={() => (
              <Button mt={8} onClick={() => onChange({ ...review, at: at + 1 })}>
                {at + 1 < questions.length ? "Next question" : "Finish"}
              </Button>
            )}
          />
          <div className={classes.ways}>
            {answers[at] === null && (
              <Button variant="default" onClick={() => onChange({ ...review, at: at + 1 })}>
                Skip this one
              </Button>
            )}
            <Button variant="default" onClick={() => onChange(null)}>
              End the review
            </Button>
          </div>
        </article>
      ) : (
        <End review={review} onChange={onChange} />
      )}
    </>
  );
}

/** What came of it, to look at once: it is kept nowhere. */
function End({ review, onChange }: SheetProps) {
  const words = (answer: boolean | null | undefined) =>
    answer == null ? "left out" : answer ? "right" : "not right";
  return (
    <article className={classes.sheet}>
      <h2>The end of the review</h2>
      <table className={classes.table}>
        <thead>
          <tr>
            <th>Question</th>
            <th>This time</th>
          </tr>
        </thead>
        <tbody>
          {review.questions.map((q, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: questions never change places
            <tr key={i}>
              <td>{q.title}</td>
              <td>{words(review.answers[i])}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={classes.dim}>
        None of it is kept. A slip is mended by “Try it on fresh numbers” in the slip book.
      </p>
      <div className={classes.ways}>
        <Button onClick={() => onChange(null)}>Draw another review</Button>
        <Button component={Link} to="/slips" variant="default">
          To the slip book
        </Button>
      </div>
    </article>
  );
}
