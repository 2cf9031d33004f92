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
  // A teacher has no Week: their classes say who needs them.
  beforeLoad: async ({ context }) => {
    const me = await context.queryClient.ensureQueryData(meQuery());
    if (me.role === "teacher") throw redirect({ to: "/classes" });
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
  validateSearch: (search: Record<string, unknown>): { round?: number } => {
    const round = Number(search.round);
    return Number.isInteger(round) && round > 0 ? { round } : {};
  },
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
  validateSearch: (search: Record<string, unknown>): { skill?: string; time?: true } => ({
    ...(typeof search.skill === "string" ? { skill: search.skill } : {}),
    ...(search.time === true ? { time: true } : {}),
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
  validateSearch: (search: Record<string, unknown>): { slip?: string } =>
    typeof search.slip === "string" ? { slip: search.slip } : {},
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
  validateSearch: (search: Record<string, unknown>): { step?: number; whole?: true } => {
    const step = Number(search.step);
    return {
      ...(Number.isInteger(step) && step > 0 ? { step } : {}),
      ...(search.whole === true ? { whole: true } : {}),
    };
  },
  component: lazyRouteComponent(() => import("../features/reading/ReadingPage"), "ReadingPage"),
});
const typingRoute = createRoute({
  getParentRoute: () => signedIn,
  path: "/typing",
  validateSearch: (search: Record<string, unknown>): { task?: string } =>
    typeof search.task === "string" ? { task: search.task } : {},
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
  validateSearch: (search: Record<string, unknown>): { pages?: string[]; meaning?: true } => ({
    ...(Array.isArray(search.pages)
      ? { pages: search.pages.filter((p): p is string => typeof p === "string") }
      : {}),
    ...(search.meaning === true ? { meaning: true } : {}),
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
  validateSearch: (search: Record<string, unknown>): { show?: Filter } => {
    const known = filters.find((f) => f.value === search.show);
    return known ? { show: known.value } : {};
  },
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
  validateSearch: (search: Record<string, unknown>): { slug?: string; seed?: number } => {
    const seed = Number(search.seed);
    return {
      ...(typeof search.slug === "string" ? { slug: search.slug } : {}),
      ...(Number.isInteger(seed) && seed > 0 ? { seed } : {}),
    };
  },
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
  validateSearch: (search: Record<string, unknown>): { from?: string } =>
    typeof search.from === "string" ? { from: search.from } : {},
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
