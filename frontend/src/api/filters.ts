/** Find's filters and the orders of its results. Made from `gremba/core/catalogue/search/filters.py` by
 * `./tools/generate`; do not edit it here. */

export const FILTERS = [
  {
    "name": "words",
    "takes": "text",
    "chip": "",
    "legend": "",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "subject",
    "takes": "any",
    "chip": "Subject",
    "legend": "Subject",
    "showsValue": true,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "number",
    "takes": "text",
    "chip": "Number",
    "legend": "Course number",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "142 finds 142A too. 1* is every course of the first level, 14? those from 140 to 149.",
    "example": "142, 1*, 14?",
    "needsWeek": false
  },
  {
    "name": "day",
    "takes": "free",
    "chip": "Days",
    "legend": "Days I have time",
    "showsValue": true,
    "short": {
      "none": "no times"
    },
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "part",
    "takes": "free",
    "chip": "Time",
    "legend": "Classes start in the",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "time_from",
    "takes": "minute",
    "chip": "Time",
    "legend": "Not before",
    "showsValue": false,
    "short": {},
    "reads": "from {}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "time_to",
    "takes": "minute",
    "chip": "Time",
    "legend": "Not after",
    "showsValue": false,
    "short": {},
    "reads": "to {}",
    "hint": "Sections without set times are left out, unless “no set times” is chosen under Days.",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "campus",
    "takes": "any",
    "chip": "Campus",
    "legend": "Campus",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "session",
    "takes": "any",
    "chip": "Weeks",
    "legend": "The weeks it runs",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "counts",
    "takes": "any",
    "chip": "Counts toward",
    "legend": "Counts toward",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "fits",
    "takes": "yes",
    "chip": "Fits my week",
    "legend": "",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": true
  },
  {
    "name": "seats",
    "takes": "one",
    "chip": "Seats",
    "legend": "Seats",
    "showsValue": false,
    "short": {
      "open": "left",
      "waitlist": "left or waitlist"
    },
    "reads": "{}",
    "hint": "A full section can still be worth a look: seats come back, and many have a waitlist.",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "no_textbook_cost",
    "takes": "yes",
    "chip": "More",
    "legend": "Books",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "component",
    "takes": "any",
    "chip": "More",
    "legend": "Component",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "delivery",
    "takes": "any",
    "chip": "More",
    "legend": "Delivery",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "credits",
    "takes": "any",
    "chip": "More",
    "legend": "Credits",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "level",
    "takes": "any",
    "chip": "More",
    "legend": "Level",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "instructor",
    "takes": "any",
    "chip": "More",
    "legend": "Instructor",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  },
  {
    "name": "among",
    "takes": "numbers",
    "chip": "",
    "legend": "",
    "showsValue": false,
    "short": {},
    "reads": "{}",
    "hint": "",
    "example": "",
    "needsWeek": false
  }
] as const;

export const SORTS = [
  [
    "course",
    "by course"
  ],
  [
    "time",
    "earliest in the week first"
  ],
  [
    "seats",
    "most seats first"
  ],
  [
    "fit",
    "what fits first"
  ]
] as const;
