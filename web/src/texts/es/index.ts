import asking from "./asking.json";
import calendars from "./calendars.json";
import capture from "./capture.json";
import clerk from "./clerk.json";
import ledger from "./ledger.json";
import elsewhere from "./elsewhere.json";
import hearing from "./hearing.json";
import links from "./links.json";
import minutes from "./minutes.json";
import passages from "./passages.json";
import record from "./record.json";
import shelves from "./shelves.json";
import shell from "./shell.json";
import trust from "./trust.json";
import verbs from "./verbs.json";

export const messages = {
  ...shell,
  ...capture,
  ...elsewhere,
  ...hearing,
  ...minutes,
  ...passages,
  ...record,
  ...asking,
  ...calendars,
  ...clerk,
  ...ledger,
  ...links,
  ...shelves,
  ...trust,
  ...verbs,
};
