import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Trouble } from "../../shared/Trouble";
import { PageReader } from "./PageReader";
import { pageQuery } from "./queries";

/** A page opened beside a question. */
export function BesidePage({ skill }: { skill: string }) {
  const page = useQuery(pageQuery(skill));
  const [step, setStep] = useState<number | null>(null);
  const [whole, setWhole] = useState(false);
  if (page.error) return <Trouble error={page.error} />;
  if (!page.data) return <Skeleton height={200} aria-label="Loading the page" />;
  return (
    <PageReader
      page={page.data}
      step={step ?? page.data.step}
      whole={whole}
      onStep={setStep}
      onWhole={setWhole}
      beside
    />
  );
}
