import { Button, FileButton } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./Bank.module.css";

/** The bank as a zip, out and in; what could not be taken is named. */
export function ZipIn() {
  const queryClient = useQueryClient();
  const bring = useMutation({
    mutationFn: (file: File) =>
      ask(
        api.POST("/api/bank/import", {
          // The body is the file itself.
          body: file as unknown as number[],
          bodySerializer: (body) => body as unknown as BodyInit,
          headers: { "Content-Type": "application/zip" },
        }),
      ),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["bank"] }),
  });
  const files = bring.data?.files ?? [];
  const faulty = files.filter((f) => f.faults.length > 0);
  const fresh = files.filter((f) => f.is_new).length;
  const known = files.length - faulty.length - fresh;
  return (
    <>
      <div className={classes.buttons}>
        <Button component="a" variant="default" size="sm" href="/api/bank/export.zip" download>
          Download everything (zip)
        </Button>
        <Button component="a" variant="default" size="sm" href="/api/bank/qti.zip" download>
          Download the questions (QTI)
        </Button>
        <FileButton accept=".zip,application/zip" onChange={(file) => file && bring.mutate(file)}>
          {(props) => (
            <Button variant="default" size="sm" loading={bring.isPending} {...props}>
              Import a zip
            </Button>
          )}
        </FileButton>
      </div>
      {bring.error && <Trouble error={bring.error} />}
      {bring.data && (
        <div role="status" data-testid="brought-in">
          <p>
            {fresh === 1 ? "1 file is" : `${fresh} files are`} new
            {known > 0 && `, ${known === 1 ? "1 was" : `${known} were`} here already`}
            {faulty.length > 0 && `, ${faulty.length === 1 ? "1 was" : `${faulty.length} were`} skipped`}.
          </p>
          {faulty.length > 0 && (
            <ul className={classes.faults}>
              {faulty.flatMap((f) =>
                f.faults.map((fault) => (
                  <li key={`${f.name}${fault.line}${fault.words}`}>
                    {f.name}, line {fault.line}: {fault.words}
                  </li>
                )),
              )}
            </ul>
          )}
          {bring.data.told.length > 0 && (
            <>
              <p>Skipped, or changed on the way in:</p>
              <ul>
                {bring.data.told.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            </>
          )}
          {bring.data.others.length > 0 && (
            <p className={classes.dim}>Not looked at: {bring.data.others.slice(0, 20).join(", ")}</p>
          )}
        </div>
      )}
    </>
  );
}
