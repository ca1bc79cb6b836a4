// What is built in beside the code: American alone, so that what British says alike is not carried twice.
import config from "./lingui.config";

export default { ...config, sourceLocale: "en-US", locales: ["en-US"] };
