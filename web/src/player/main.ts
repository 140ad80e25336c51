import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "../styles.css";
import { createApp, defineAsyncComponent } from "vue";

/** What an address without an account opens: a lesson (/p), a list (/l), the form for requests (/r). */
const PAGES = {
  p: defineAsyncComponent(() => import("./PlayerPage.vue")),
  l: defineAsyncComponent(() => import("./ListPage.vue")),
  r: defineAsyncComponent(() => import("./AskPage.vue")),
};
const [, kind = "p", token = ""] = location.pathname.split("/");
createApp(PAGES[kind as keyof typeof PAGES] ?? PAGES.p, { token }).mount("#app");
