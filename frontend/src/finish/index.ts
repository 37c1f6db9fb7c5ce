export { FinishPage } from "./FinishPage";
