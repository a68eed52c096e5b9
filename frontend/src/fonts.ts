/** Our fonts, with all that declares them. */
import "@fontsource-variable/hanken-grotesk/wght.css";
import "@fontsource-variable/newsreader/wght.css";
import "@fontsource/commit-mono/latin-400.css";
import "@fontsource/commit-mono/latin-700.css";
