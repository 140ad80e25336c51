import { createRouter, createWebHistory } from "vue-router";
import { useSession } from "./stores/session";

export const VIEWS = [
  { name: "take-in", label: "Take in", key: "takeIn" },
  { name: "pulse", label: "Pulse", key: "pulse" },
  { name: "map", label: "Map", key: "map" },
  { name: "bench", label: "Bench", key: "bench" },
  { name: "grooves", label: "Grooves", key: "grooves" },
  { name: "fills", label: "Fills", key: "fills" },
  { name: "feel", label: "Feel", key: "feel" },
  { name: "hands", label: "Hands", key: "hands" },
  { name: "chart", label: "Chart", key: "chart" },
  { name: "practice", label: "Practice", key: "practice" },
] as const;

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/log-in", name: "log-in", component: () => import("./views/LogIn.vue") },
    { path: "/join/:token?", name: "join", component: () => import("./views/JoinGroup.vue"), props: (to) => ({ token: String(to.params.token ?? "") }) },
    { path: "/", name: "shelf", component: () => import("./views/TheShelf.vue") },
    { path: "/lists", name: "lists", component: () => import("./views/TheLists.vue") },
    { path: "/people", name: "people", component: () => import("./views/ThePeople.vue") },
    {
      path: "/songs/:id(\\d+)",
      component: () => import("./views/SongDesk.vue"),
      children: [
        { path: "", redirect: { name: "map" } },
        { path: "take-in", name: "take-in", component: () => import("./views/TakeIn.vue") },
        { path: "pulse", name: "pulse", component: () => import("./views/ThePulse.vue") },
        { path: "map", name: "map", component: () => import("./views/TheMap.vue") },
        { path: "bench", name: "bench", component: () => import("./views/TheBench.vue") },
        { path: "grooves", name: "grooves", component: () => import("./views/TheGrooveBook.vue") },
        { path: "fills", name: "fills", component: () => import("./views/TheFills.vue") },
        { path: "feel", name: "feel", component: () => import("./views/TheFeel.vue") },
        { path: "hands", name: "hands", component: () => import("./views/TheHands.vue") },
        { path: "chart", name: "chart", component: () => import("./views/TheChart.vue") },
        { path: "practice", name: "practice", component: () => import("./views/ThePractice.vue") },
      ],
    },
    { path: "/:rest(.*)*", redirect: "/" },
  ],
});

router.beforeEach(async (to) => {
  const name = await useSession().find().catch(() => null);
  if (!name && to.name !== "log-in" && to.name !== "join") return { name: "log-in", query: { next: to.fullPath } };
  return true;
});
