import { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  Outlet,
  redirect,
} from "@tanstack/react-router";
import { Failure } from "../api/client";
import { AllPage } from "../features/board/AllPage";
import { BoardPage } from "../features/board/BoardPage";
import { CoverPage } from "../features/cover/CoverPage";
import { GoalPage } from "../features/goal/GoalPage";
import { HandInPage } from "../features/hand-in/HandInPage";
import { ReceiptPage } from "../features/hand-in/ReceiptPage";
import { PracticePage } from "../features/practice/PracticePage";
import { PracticeRunPage } from "../features/practice/PracticeRunPage";
import { ReadingPage } from "../features/reading/ReadingPage";
import { ResultPage } from "../features/result/ResultPage";
import { ReviewPage } from "../features/review/ReviewPage";
import { ScoresPage } from "../features/scores/ScoresPage";
import { meQuery } from "../features/sign-in/queries";
import { SignInPage } from "../features/sign-in/SignInPage";
import { SkillsPage } from "../features/skills/SkillsPage";
import { SlipBookPage } from "../features/slips/SlipBookPage";
import { TypingPage } from "../features/typing/TypingPage";
import { WeekPage } from "../features/week/WeekPage";
import { Broken, NotHere } from "../shared/Trouble";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) =>
        !(error instanceof Failure && error.status > 0 && error.status < 500) && count < 3,
      staleTime: 5_000,
    },
  },
});

const rootRoute = createRootRouteWithContext<{ queryClient: QueryClient }>()({
  component: Outlet,
  notFoundComponent: NotHere,
});

const signInRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/sign-in",
  validateSearch: (search: Record<string, unknown>): { to?: string } =>
    typeof search.to === "string" && search.to.startsWith("/") && !search.to.startsWith("//")
      ? { to: search.to }
      : {},
  component: SignInPage,
});

const signedIn = createRoute({
  getParentRoute: () => rootRoute,
  id: "signed-in",
  component: Outlet,
  beforeLoad: async ({ context, location }) => {
    try {
      await context.queryClient.ensureQueryData(meQuery());
    } catch (error) {
      if (error instanceof Failure && error.status === 401) {
        throw redirect({ to: "/sign-in", search: location.href === "/" ? {} : { to: location.href } });
      }
      throw error;
    }
  },
});

const weekRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/",
  validateSearch: (search: Record<string, unknown>): { class?: string; counting?: true } => ({
    ...(typeof search.class === "string" ? { class: search.class } : {}),
    ...(search.counting === true ? { counting: true } : {}),
  }),
  component: WeekPage,
});
const coverRoute = createRoute({ getParentRoute: () => signedIn, path: "/work/$id", component: CoverPage });
const boardRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/question/$number",
  component: BoardPage,
});
const handInRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/hand-in",
  component: HandInPage,
});
const receiptRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/receipt/$number",
  component: ReceiptPage,
});

const allRoute = createRoute({ getParentRoute: () => signedIn, path: "/work/$id/all", component: AllPage });
const resultRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/result",
  component: ResultPage,
});
const practiceRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/practice/$number",
  validateSearch: (search: Record<string, unknown>): { round?: number } => {
    const round = Number(search.round);
    return Number.isInteger(round) && round > 0 ? { round } : {};
  },
  component: PracticePage,
});
const scoresRoute = createRoute({ getParentRoute: () => signedIn, path: "/scores", component: ScoresPage });
const skillsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/skills",
  validateSearch: (search: Record<string, unknown>): { skill?: string; time?: true } => ({
    ...(typeof search.skill === "string" ? { skill: search.skill } : {}),
    ...(search.time === true ? { time: true } : {}),
  }),
  component: SkillsPage,
});
const practiseRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/practise/$id",
  component: PracticeRunPage,
});
const slipsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/slips",
  validateSearch: (search: Record<string, unknown>): { slip?: string } =>
    typeof search.slip === "string" ? { slip: search.slip } : {},
  component: SlipBookPage,
});

const reviewRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/slips/review",
  component: ReviewPage,
});
const readRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/read/$skill",
  validateSearch: (search: Record<string, unknown>): { step?: number; whole?: true } => {
    const step = Number(search.step);
    return {
      ...(Number.isInteger(step) && step > 0 ? { step } : {}),
      ...(search.whole === true ? { whole: true } : {}),
    };
  },
  component: ReadingPage,
});
const typingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/typing",
  validateSearch: (search: Record<string, unknown>): { task?: string } =>
    typeof search.task === "string" ? { task: search.task } : {},
  component: TypingPage,
});
const goalRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/goal",
  component: GoalPage,
});

export const router = createRouter({
  routeTree: rootRoute.addChildren([
    signInRoute,
    signedIn.addChildren([
      weekRoute,
      coverRoute,
      boardRoute,
      allRoute,
      handInRoute,
      receiptRoute,
      resultRoute,
      practiceRoute,
      scoresRoute,
      skillsRoute,
      slipsRoute,
      reviewRoute,
      readRoute,
      typingRoute,
      goalRoute,
      practiseRoute,
    ]),
  ]),
  context: { queryClient },
  defaultNotFoundComponent: NotHere,
  defaultErrorComponent: Broken,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
