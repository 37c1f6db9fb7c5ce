export { ShootPage } from "./ShootPage";
