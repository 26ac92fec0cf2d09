"""The demo's questionnaire: what was asked, how it is coded. The generator and the demo's codebook follow it."""

from dataclasses import dataclass, field

from rowtag.core.tag import Level, Type, Use

TITLE = "Fennel Row plot holders 2026"

Codes = dict[str, str]

DONT_KNOW, REFUSED, NOT_ASKED = ("-8", "don't know"), ("-9", "refused"), ("-7", "not asked")
RATING: Codes = {"1": "Very poor", "2": "Poor", "3": "Fair", "4": "Good", "5": "Very good"}
YES_NO: Codes = {"1": "Yes", "0": "No"}
OFTEN: Codes = {"1": "Never", "2": "Seldom", "3": "Now and then", "4": "Often", "5": "Always"}
BOTHER: Codes = {"0": "Not at all", "1": "A little", "2": "Quite a lot", "3": "Very much"}


@dataclass(frozen=True)
class Question:
    """One variable of the demo: its name in the file, its name in the codebook, and its definition."""

    head: str
    name: str
    label: str
    question: str = ""
    type: Type = "integer"
    level: Level = "nominal"
    use: Use = "answer"
    codes: Codes = field(default_factory=dict)
    complete: bool = True
    missing: tuple[tuple[str, str], ...] = ()
    limits: tuple[str, str] | None = None
    battery: str = ""
    sign: str = ""
    printed: Codes = field(default_factory=dict)
    """Codes that the printed questionnaire has beyond those that the study knows: they were added late."""


def _battery(
    head: str, name: str, title: str, ask: str, labels: list[str], codes: Codes, level: Level, complete: bool = True
) -> list[Question]:
    return [
        Question(
            f"{head}_{number}",
            f"{name}_{number}",
            label,
            ask.format(label.lower()),
            level=level,
            codes=codes,
            complete=complete,
            missing=(DONT_KNOW, REFUSED),
            battery=title,
        )
        for number, label in enumerate(labels, 1)
    ]


QUESTIONS: list[Question] = [
    Question("q1", "plot_no", "Plot number", "Plot number, as on the gate", "text", use="identifier"),
    Question(
        "q2",
        "quarter",
        "Quarter of the site",
        "In which quarter is your plot?",
        codes={"1": "Brook", "2": "Orchard", "3": "Hill", "4": "Railway"},
    ),
    Question(
        "q3",
        "tenure",
        "How the plot is held",
        "How do you hold your plot at the moment?",
        codes={"1": "In my own name", "2": "Shared with another household", "3": "Waiting list"},
        missing=(DONT_KNOW, REFUSED),
        printed={"8": "Plot lent by a friend"},
    ),
    Question("q4", "plot_size", "Size of the plot, m²", "How large is it, in square metres?", "decimal", "ratio"),
    Question(
        "q5",
        "hours",
        "Hours in a usual week",
        "In a usual week, about how many hours do you spend on the plot?",
        "integer",
        "ratio",
        missing=(DONT_KNOW, REFUSED),
        limits=("0", "80"),
    ),
    Question(
        "q6",
        "rent",
        "Rent paid this year",
        "How much rent did you pay this year?",
        "decimal",
        "ratio",
        missing=(REFUSED,),
        sign="£",
    ),
    Question(
        "since",
        "since",
        "Year the plot was taken on",
        "In which year did you take the plot on?",
        "integer",
        "interval",
        missing=(DONT_KNOW,),
        limits=("1950", "2026"),
    ),
    *_battery(
        "q7",
        "site",
        "The site",
        "How would you rate the {}?",
        ["Water supply", "Paths and gates", "Security", "Toilets", "Tool shed", "Site meetings"],
        RATING,
        "ordinal",
    ),
    *_battery(
        "q8",
        "bel",
        "Belonging",
        "How much do you agree: {}?",
        ["I feel at home here", "I know my neighbours", "People help each other", "My view counts", "I will stay"],
        {"1": "Not at all", "7": "Completely"},
        "ordinal",
        complete=False,
    ),
    *[
        Question(
            f"q9_{number}",
            f"crop_{number}",
            f"Grows {crop}",
            "Which of these do you grow?",
            codes=YES_NO,
            battery="Crops, tick all that apply",
        )
        for number, crop in enumerate(["beans", "roots", "berries", "herbs", "flowers", "none of these"], 1)
    ],
    Question(
        "q10",
        "wishes",
        "Wants from the committee",
        "What would you like from the committee?",
        "text",
        use="several answers",
    ),
    *[
        Question(
            f"q11_{number}",
            f"rank_{name}",
            label,
            "Please rank your reasons, from 1 (most) to 5 (least).",
            level="ordinal",
            codes={str(rank): f"Rank {rank}" for rank in range(1, 6)},
            battery="Reasons, ranked",
        )
        for number, (name, label) in enumerate(
            {
                "food": "Fresh food",
                "ease": "Peace and quiet",
                "folk": "Company",
                "wild": "Wildlife",
                "save": "Saving money",
            }.items(),
            1,
        )
    ],
    Question(
        "q12", "letter", "Gets the newsletter", "Do you get the newsletter?", "text", codes={"Y": "Yes", "N": "No"}
    ),
    Question(
        "q13",
        "compost",
        "Makes compost",
        "Do you make your own compost?",
        codes={"1": "Yes", "2": "No"},
        missing=(DONT_KNOW,),
    ),
    Question(
        "q14",
        "watering",
        "Waters in dry weeks",
        "How often do you water in dry weeks?",
        level="ordinal",
        codes=OFTEN,
        missing=(DONT_KNOW,),
    ),
    Question(
        "q15",
        "content",
        "Content with the plot, 0 to 10",
        "All in all, how content are you with your plot?",
        level="ordinal",
        codes={"0": "Not at all", "10": "Entirely"},
        complete=False,
        missing=(REFUSED,),
    ),
    Question(
        "q16",
        "age_band",
        "Age",
        "Which age group are you in?",
        "text",
        "ordinal",
        codes={"Under 35": "", "35 to 59": "", "60 and over": ""},
    ),
    Question(
        "q17",
        "people",
        "People in the household",
        "How many people live in your household?",
        "integer",
        "ratio",
        missing=(REFUSED,),
        limits=("1", "12"),
    ),
    Question(
        "q18", "children", "Children under 16", "How many of them are under 16?", "integer", "ratio", limits=("0", "9")
    ),
    Question("q19", "distance", "Distance from home, km", "How far do you live from the plot?", "decimal", "ratio"),
    Question(
        "q20",
        "travel",
        "Way of getting here",
        "How do you usually get here?",
        codes={"1": "On foot", "2": "Bicycle", "3": "Bus", "4": "Car", "5": "Another way"},
        printed={"7": "Brought by a neighbour"},
        missing=(DONT_KNOW,),
    ),
    Question("q21", "joined", "Day of joining", "When did you join the association?", "date", "interval"),
    Question(
        "q22",
        "wait",
        "Months on the waiting list",
        "How many months have you been waiting?",
        "integer",
        "ratio",
        missing=(NOT_ASKED, DONT_KNOW),
    ),
    *_battery(
        "q23",
        "worry",
        "Worries",
        "How much do {} bother you?",
        ["Slugs and snails", "Thefts", "Dry summers", "Overgrown plots", "Noises"],
        BOTHER,
        "ordinal",
    ),
    Question(
        "q24",
        "advise",
        "Would recommend a plot here",
        "Would you recommend a plot here?",
        codes={"1": "Yes", "0": "No"},
        missing=(DONT_KNOW,),
    ),
    Question("q25", "comment", "Anything to add", "Is there anything you would like to add?", "text", use="open-ended"),
    Question("interviewer", "interviewer", "", "", "text", use="administrative", complete=False),
    Question("mode", "mode", "", "", "text", use="administrative", complete=False),
    Question("visit", "visit", "Day of the interview", "", "date", "interval", use="administrative"),
    Question("started", "started", "Interview began", "", "datetime", "interval", use="administrative"),
    Question("ended", "ended", "Interview ended", "", "datetime", "interval", use="administrative"),
    Question("weight", "weight", "", "", "decimal", "ratio", use="weight"),
]
"""All variables, in the order of the file."""

UNKEYED: list[Question] = [
    Question("q26", "bonfire", "Bonfires", "Should bonfires be allowed in winter?", codes=YES_NO, missing=(DONT_KNOW,)),
    Question("q27", "shed_key", "Has a key to the tool shed", "Do you have a key to the tool shed?", codes=YES_NO),
]
"""Questions that were printed and asked, and never keyed in."""
