import { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
  redirect,
} from "@tanstack/react-router";
import { Failure } from "../api/client";
import { type Filter, filters } from "../features/classes/filters";
import { meQuery } from "../features/sign-in/queries";
import { SignInPage } from "../features/sign-in/SignInPage";
import { Broken, NotHere } from "./Dead";

/**
 * What an address carries beside its path. The router keeps what a route does not name: so every route names what it knows,
 * as `undefined` where it is no good.
 */
type Search = Record<string, unknown>;

const textOf = (value: unknown) => (typeof value === "string" ? value : undefined);
const trueOf = (value: unknown) => (value === true ? true : undefined);

function countOf(value: unknown): number | undefined {
  const number = Number(value);
  return Number.isInteger(number) && number > 0 ? number : undefined;
}

/** An address of this server, for going on to after signing in; no other server's, however it is written. */
function ownAddress(value: unknown): string | undefined {
  if (typeof value !== "string" || !value.startsWith("/") || !URL.canParse(value, window.location.origin)) {
    return undefined;
  }
  const address = new URL(value, window.location.origin);
  // "/.//elsewhere" is a path of this server, but what is left of it once it is read, "//elsewhere", is another server.
  const isOwn = address.origin === window.location.origin && !address.pathname.startsWith("//");
  return isOwn ? address.pathname + address.search + address.hash : undefined;
}

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
  validateSearch: (search: Search): { to?: string | undefined } => ({ to: ownAddress(search.to) }),
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
  validateSearch: (search: Search): { class?: string | undefined; counting?: true | undefined } => ({
    class: textOf(search.class),
    counting: trueOf(search.counting),
  }),
  // Who only teaches has no Week: their classes say who needs them.
  beforeLoad: async ({ context }) => {
    const me = await context.queryClient.ensureQueryData(meQuery());
    if (me.role === "teacher" && !me.studies) throw redirect({ to: "/classes" });
  },
  component: lazyRouteComponent(() => import("../features/week/WeekPage"), "WeekPage"),
});
const coverRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id",
  component: lazyRouteComponent(() => import("../features/cover/CoverPage"), "CoverPage"),
});
const boardRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/question/$number",
  component: lazyRouteComponent(() => import("../features/board/BoardPage"), "BoardPage"),
});
const handInRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/hand-in",
  component: lazyRouteComponent(() => import("../features/hand-in/HandInPage"), "HandInPage"),
});
const receiptRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/receipt/$number",
  component: lazyRouteComponent(() => import("../features/hand-in/ReceiptPage"), "ReceiptPage"),
});

const allRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/all",
  component: lazyRouteComponent(() => import("../features/board/AllPage"), "AllPage"),
});
const resultRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/result",
  component: lazyRouteComponent(() => import("../features/result/ResultPage"), "ResultPage"),
});
const practiceRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/practice/$number",
  validateSearch: (search: Search): { round?: number | undefined } => ({ round: countOf(search.round) }),
  component: lazyRouteComponent(() => import("../features/practice/PracticePage"), "PracticePage"),
});
const scoresRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/scores",
  component: lazyRouteComponent(() => import("../features/scores/ScoresPage"), "ScoresPage"),
});
const skillsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/skills",
  validateSearch: (search: Search): { skill?: string | undefined; time?: true | undefined } => ({
    skill: textOf(search.skill),
    time: trueOf(search.time),
  }),
  component: lazyRouteComponent(() => import("../features/skills/SkillsPage"), "SkillsPage"),
});
const practiseRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/practise/$id",
  component: lazyRouteComponent(() => import("../features/practice/PracticeRunPage"), "PracticeRunPage"),
});
const slipsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/slips",
  validateSearch: (search: Search): { slip?: string | undefined } => ({ slip: textOf(search.slip) }),
  component: lazyRouteComponent(() => import("../features/slips/SlipBookPage"), "SlipBookPage"),
});

const reviewRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/slips/review",
  component: lazyRouteComponent(() => import("../features/review/ReviewPage"), "ReviewPage"),
});
const readRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/read/$skill",
  validateSearch: (search: Search): { step?: number | undefined; whole?: true | undefined } => ({
    step: countOf(search.step),
    whole: trueOf(search.whole),
  }),
  component: lazyRouteComponent(() => import("../features/reading/ReadingPage"), "ReadingPage"),
});
const typingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/typing",
  validateSearch: (search: Search): { task?: string | undefined } => ({ task: textOf(search.task) }),
  component: lazyRouteComponent(() => import("../features/typing/TypingPage"), "TypingPage"),
});
const goalRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/goal",
  component: lazyRouteComponent(() => import("../features/goal/GoalPage"), "GoalPage"),
});

const markingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/marking",
  component: lazyRouteComponent(() => import("../features/marking/MarkingPage"), "MarkingPage"),
});
const studentMarkRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/marking/$id/student/$student",
  component: lazyRouteComponent(() => import("../features/marking/StudentMarkPage"), "StudentMarkPage"),
});
const toMarkRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/marking/$id/$number",
  component: lazyRouteComponent(() => import("../features/marking/ToMarkPage"), "ToMarkPage"),
});

const ownRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/own",
  component: lazyRouteComponent(() => import("../features/own/OwnPage"), "OwnPage"),
});
const interfaceRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/interface",
  component: lazyRouteComponent(() => import("../features/own/InterfacePage"), "InterfacePage"),
});
const courseRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/class/$id",
  component: lazyRouteComponent(() => import("../features/course/CoursePage"), "CoursePage"),
});
const cardsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/cards",
  validateSearch: (search: Search): { pages?: string[] | undefined; meaning?: true | undefined } => ({
    pages: Array.isArray(search.pages)
      ? search.pages.filter((p): p is string => typeof p === "string")
      : undefined,
    meaning: trueOf(search.meaning),
  }),
  component: lazyRouteComponent(() => import("../features/cards/CardsPage"), "CardsPage"),
});
const recordingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/recording/$id",
  component: lazyRouteComponent(() => import("../features/recordings/RecordingPage"), "RecordingPage"),
});
const bankRecordingsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-recordings",
  component: lazyRouteComponent(
    () => import("../features/recordings/BankRecordingsPage"),
    "BankRecordingsPage",
  ),
});
const editRecordingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-recordings/$id",
  component: lazyRouteComponent(
    () => import("../features/recordings/EditRecordingPage"),
    "EditRecordingPage",
  ),
});
const startRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/class/$id/start",
  component: lazyRouteComponent(() => import("../features/start/StartPage"), "StartPage"),
});
const classStartRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/start",
  component: lazyRouteComponent(() => import("../features/start/ClassStartPage"), "ClassStartPage"),
});
const unitsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/units",
  component: lazyRouteComponent(() => import("../features/units/UnitsPage"), "UnitsPage"),
});
const classSkillsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/skills",
  component: lazyRouteComponent(() => import("../features/classes/ClassSkillsPage"), "ClassSkillsPage"),
});

const welcomeRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/welcome",
  component: lazyRouteComponent(() => import("../features/welcome/WelcomePage"), "WelcomePage"),
});
const joinRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/join",
  component: lazyRouteComponent(() => import("../features/welcome/JoinPage"), "JoinPage"),
});
const paperRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/work/$id/paper",
  component: lazyRouteComponent(() => import("../features/paper/PaperPage"), "PaperPage"),
});
const stackRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/work/$assignment/paper",
  component: lazyRouteComponent(() => import("../features/paper/StackPage"), "StackPage"),
});
const writtenRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/students/$person/$assignment/paper",
  component: lazyRouteComponent(() => import("../features/paper/WrittenPaperPage"), "WrittenPaperPage"),
});
const fromPortalRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/from-portal",
  component: lazyRouteComponent(() => import("../features/portal/FromPortalPage"), "FromPortalPage"),
});
const portalClassRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/from-portal/class",
  component: lazyRouteComponent(() => import("../features/portal/PortalClassPage"), "PortalClassPage"),
});
const pickRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/from-portal/pick",
  component: lazyRouteComponent(() => import("../features/portal/PickPage"), "PickPage"),
});
const classPortalRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/portal",
  component: lazyRouteComponent(() => import("../features/portal/ClassPortalPage"), "ClassPortalPage"),
});
const classesRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes",
  component: lazyRouteComponent(() => import("../features/classes/ClassesPage"), "ClassesPage"),
});
const newClassRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/new",
  component: lazyRouteComponent(() => import("../features/classes/NewClassPage"), "NewClassPage"),
});
const sheetRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id",
  validateSearch: (search: Search): { show?: Filter | undefined } => ({
    show: filters.find((f) => f.value === search.show)?.value,
  }),
  component: lazyRouteComponent(() => import("../features/classes/SheetPage"), "SheetPage"),
});
const peopleRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/people",
  component: lazyRouteComponent(() => import("../features/classes/PeoplePage"), "PeoplePage"),
});
const actsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/acts",
  component: lazyRouteComponent(() => import("../features/classes/ActsPage"), "ActsPage"),
});
const classSettingsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/settings",
  component: lazyRouteComponent(() => import("../features/classes/SettingsPage"), "ClassSettingsPage"),
});
const workSeenRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/students/$person/$assignment",
  component: lazyRouteComponent(() => import("../features/classes/WorkSeenPage"), "WorkSeenPage"),
});
const workListRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/work",
  component: lazyRouteComponent(() => import("../features/setting/WorkListPage"), "WorkListPage"),
});
const settingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/work/$assignment",
  component: lazyRouteComponent(() => import("../features/setting/SettingPage"), "SettingPage"),
});
const contentRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-content",
  component: lazyRouteComponent(() => import("../features/bank/ContentPage"), "ContentPage"),
});
const editContentRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-pages/$skill",
  component: lazyRouteComponent(() => import("../features/bank/ContentPage"), "EditContentPage"),
});
const editSkillsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-skills",
  component: lazyRouteComponent(() => import("../features/bank/ContentPage"), "EditSkillsPage"),
});
const bankRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank",
  component: lazyRouteComponent(() => import("../features/bank/BankPage"), "BankPage"),
});
const bankPhoneRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-phone",
  validateSearch: (search: Search): { slug?: string | undefined; seed?: number | undefined } => ({
    slug: textOf(search.slug),
    seed: countOf(search.seed),
  }),
  component: lazyRouteComponent(() => import("../features/bank/PhonePage"), "PhonePage"),
});
const editRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank/$slug/edit",
  component: lazyRouteComponent(() => import("../features/bank/EditPage"), "EditPage"),
});
const newQuestionRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/bank-new",
  validateSearch: (search: Search): { from?: string | undefined } => ({ from: textOf(search.from) }),
  component: lazyRouteComponent(() => import("../features/bank/EditPage"), "NewQuestionPage"),
});
const wentRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/classes/$id/work/$assignment/went",
  component: lazyRouteComponent(() => import("../features/classes/WentPage"), "WentPage"),
});
const threadsRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/messages",
  component: lazyRouteComponent(() => import("../features/threads/ThreadsPage"), "ThreadsPage"),
});
const threadRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/messages/$id",
  component: lazyRouteComponent(() => import("../features/threads/ThreadPage"), "ThreadPage"),
});

export const router = createRouter({
  routeTree: rootRoute.addChildren([
    signInRoute,
    welcomeRoute,
    joinRoute,
    fromPortalRoute,
    signedIn.addChildren([
      paperRoute,
      stackRoute,
      writtenRoute,
      portalClassRoute,
      pickRoute,
      classPortalRoute,
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
      markingRoute,
      studentMarkRoute,
      courseRoute,
      startRoute,
      recordingRoute,
      bankRecordingsRoute,
      editRecordingRoute,
      cardsRoute,
      classStartRoute,
      ownRoute,
      interfaceRoute,
      unitsRoute,
      classSkillsRoute,
      toMarkRoute,
      classesRoute,
      newClassRoute,
      sheetRoute,
      peopleRoute,
      actsRoute,
      classSettingsRoute,
      workSeenRoute,
      workListRoute,
      settingRoute,
      bankRoute,
      bankPhoneRoute,
      contentRoute,
      editContentRoute,
      editSkillsRoute,
      wentRoute,
      editRoute,
      newQuestionRoute,
      threadsRoute,
      threadRoute,
    ]),
  ]),
  context: { queryClient },
  // A page's script is fetched as soon as a link to it is pointed at.
  defaultPreload: "intent",
  defaultNotFoundComponent: NotHere,
  defaultErrorComponent: Broken,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
