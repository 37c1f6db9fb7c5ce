export { DeliverPage } from "./DeliverPage";
