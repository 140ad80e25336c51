import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "../styles.css";
import { createApp } from "vue";
import PlayerPage from "./PlayerPage.vue";

createApp(PlayerPage, { token: location.pathname.split("/")[2] ?? "" }).mount("#app");
