export { HomePage } from "./HomePage";
