"""What sets each check off and what does not, by an example on either side; its rule in words, and where its statistic
comes from. For people: the page of checks and the settings are made from it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Explained:
    """A rule in words, an example that is found, one that is not, and the source of a statistic where there is one."""

    rule: str
    found: str
    quiet: str
    source: str = ""


EXPLAINED = {
    "unreadable entries": Explained(
        "any at all",
        "12 hrs in a whole number",
        "12 in a whole number",
    ),
    "unlisted codes": Explained(
        "any at all, under a complete list or limits",
        "8 where 1 to 5 are listed",
        "8 where the list is partial",
    ),
    "kept as text": Explained(
        "at least 20 entries, nearly all of another type; not where zeros stand before one in ten of them",
        "39 whole numbers and “about 30”",
        "house numbers such as 12a",
    ),
    "more decimals than declared": Explained(
        "any at all, of up to 15 decimals; zeros at the end are none",
        "1.25 under one decimal",
        "1.50 under one decimal",
    ),
    "one answer in several spellings": Explained(
        "up to 300 different texts; the rarer spellings of each",
        "Bus, bus and BUS",
        "Bus and Bicycle",
    ),
    "one label on two codes": Explained(
        "the same label, blanks at its ends aside",
        "1 Yes, 2 No, 3 Yes",
        "1 Yes, 2 No, 3 yes",
    ),
    "labels nearly the same": Explained(
        "labels that differ in capitals, accents or blanks alone",
        "1 Yes, 3 yes",
        "1 Yes, 3 Yes, often",
    ),
    "codes never used": Explained(
        "from 30 valid entries on",
        "3 Both, which nobody gave",
        "the same with 8 entries",
    ),
    "undeclared missing": Explained(
        "words for nothing; negative codes among positive numbers; 9, 99, 999 … that stand apart",
        "999 where hours go up to 60",
        "99 where ages go up to 97",
    ),
    "missing code in the range": Explained(
        "between the 5 % and the 95 % quantile of at least 30 values",
        "99 for refused among heights",
        "-9 for refused among heights",
    ),
    "missing codes differ": Explained(
        "at least 4 variables and 60 % of them mark the reason otherwise",
        "refused is 8 here and -9 elsewhere",
        "-9 here, -99 there: the same habit",
    ),
    "nearly empty": Explained(
        "from 30 records on, open answers aside",
        "one entry in 60 records",
        "one comment in 60 records",
    ),
    "missing out of line": Explained(
        "that share above the middle item, and three times as often",
        "half miss one item, 3 % the others",
        "10 % miss one item, 3 % the others",
    ),
    "far outliers": Explained(
        (
            "of at least 30 values: deviations from the median, of the values and (where positive) of "
            "their logarithms; and twice as far out as the next; at most 1 % of them. Of few whole numbers: four times "
            "as far from the median as the next"
        ),
        "hours 4,000 among 1 to 60",
        "the largest of skewed incomes",
        ("median absolute deviation: Leys et al. 2013, Journal of Experimental Social Psychology 49, 764-766"),
    ),
    "zeros apart": Explained(
        (
            "of ratio variables: the next value lies ten usual steps above, and above 30 % of the median;"
            " at most 5 % are zeros"
        ),
        "0 among rents of 40 to 90",
        "0 among counts from 0 on",
    ),
    "heaping": Explained(
        "from 200 whole numbers that span 50 or more",
        "250 of 330 end in 0",
        "as many end in 0 as in 7",
    ),
    "dates to come": Explained(
        "behind the day on which the file was brought in, where they are at most 5 %",
        "2031 in a file of 2026",
        "an appointment list",
    ),
    "identifier as a measure": Explained(
        "from 30 records, another whole number in each; running on, or called id, no, code …",
        "1001, 1002, 1003 … as ratio",
        "incomes that happen to differ",
    ),
    "codes as a measure": Explained(
        "every value has a code with a label",
        "ratio with 1 Yes, 2 No",
        "ratio with 0 none alone",
    ),
    "many ordered categories": Explained(
        "no code list, and more different values",
        "ordinal with 40 values",
        "ordinal with 5 values",
    ),
    "label wanted": Explained(
        "neither label nor wording",
        "a variable with a name alone",
        "any label",
    ),
    "label beside the wording": Explained(
        "a wording and no label; told once for all of them",
        "30 questions with their wording alone",
        "a wording and a label",
    ),
    "code list wanted": Explained(
        "a coded level without labels; of texts, where some have one",
        "nominal 1, 2 without a list",
        "nominal texts Bus, Train",
    ),
    "label too long": Explained(
        "more characters than that",
        "a whole paragraph as a label",
        "How the plot is held",
    ),
    "same label twice": Explained(
        "the same words in one battery, or in none",
        "Hours on two variables",
        "Other in two batteries",
    ),
    "wording missing": Explained(
        "where 80 % of the answers have one",
        "one question of ten without its wording",
        "no question has one",
    ),
    "label cut off": Explained(
        (
            "dots at the end; or three labels of the same greatest length, at least 24 characters, that "
            "end amid a sentence"
        ),
        "How content are you with…",
        "How content are you?",
    ),
    "longer than the width": Explained(
        "more characters than the width",
        "12345 under width 4",
        "1234 under width 4",
    ),
    "lists run against each other": Explained(
        "the labels of most items, in the opposite order of codes",
        "5 Never here, 1 Never elsewhere",
        "the same list",
    ),
    "lists differ": Explained(
        "at least 60 % of the items have one list",
        "Mostly for 3, Rather elsewhere",
        "the same list",
    ),
    "item against the rest": Explained(
        "three items or more, 50 complete records; the others go together (mean correlation 0.15)",
        "r = -0.65 with the sum of the others",
        "an item whose note says “reversed”",
        "Cronbach 1951, Psychometrika 16, 297-334, for alpha",
    ),
    "the same answer throughout": Explained(
        "all items valid and the same; a warning where an item runs the other way",
        "3 3 3 3 3",
        "3 3 4 3 3",
    ),
    "neither ticked nor not": Explained(
        "of things to tick: at most 5 % of the entries are others than 0 and 1",
        "2 among 0 and 1",
        "all are 1 or 2",
    ),
    "a battery nobody told": Explained(
        "three variables or more, one behind the other, with the same list, numbered on or with the same wording or "
        "beginning of their labels",
        "care_1, care_2, care_3 from 1 Never to 5 Always; “Site: paths”, “Site: water”, “Site: shade”",
        "the same in a battery",
    ),
    "not what comes out": Explained(
        "the sentence of a derived variable gives other entries now than it holds, or cannot be worked out any more",
        "holds_plot after an entry of tenure was mended",
        "holds_plot recalculated",
    ),
    "span means others": Explained(
        "the variables between the ends of a span are others now than when its sentence was written",
        "mean(site_1..site_6) after site_2a was moved between site_2 and site_3",
        "mean(site_1..site_6) after site_6 was turned round into site_6r beside it",
    ),
    "rank used twice": Explained(
        "in a battery of ranks",
        "1 2 2 4",
        "1 2 3 4",
    ),
    "rank left out": Explained(
        "in a battery of ranks, in at most 20 % of the records",
        "1 3 4 and a blank",
        "1 2 3 and a blank",
    ),
    "nothing ticked": Explained(
        "all answered, none ticked, and a label says “none of these”",
        "0 0 0 with None of these 0",
        "0 0 0 where there is no such label",
    ),
    "none together with others": Explained(
        "a label says “none of these”, and it is ticked with others",
        "Beans 1, None of these 1",
        "None of these 1 alone",
    ),
    "record twice": Explained(
        "five answers or more, four of them there, and so many different ones that chance is out",
        "two records with the same 12 answers",
        "the same answer to two yes/no questions",
    ),
    "record nearly twice": Explained(
        "20 answers or more, all but two stretches of eight the same, chance out",
        "two records that differ in 1 of 30 answers",
        "two that differ in 10 of 30",
    ),
    "identifier twice": Explained(
        "any at all",
        "two records with F017",
        "two records without one",
    ),
    "identifier blank": Explained(
        "any at all",
        "a record without an identifier",
        "a blank in another variable",
    ),
    "record nearly empty": Explained(
        "from ten answers on, where half of them are usually there",
        "1 of 12 answers given",
        "6 of 12 answers given",
    ),
    "ended before it began": Explained(
        "two moments of one type whose names say begin and end",
        "started 10:30, ended 10:10",
        "a visit before an end",
    ),
    "finished too fast": Explained(
        "from 30 records with both moments",
        "2 minutes where 20 are usual",
        "8 minutes where 20 are usual",
    ),
    "answered though skipped": Explained(
        "of confirmed skips",
        "no plot, and hours 4",
        "no plot, and hours blank",
    ),
    "a skip nobody told": Explained(
        "30 records with the code; 70 % of the others answer",
        "whoever says No leaves hours out, but for one",
        "half of those who say No answer",
    ),
    "codebook says otherwise": Explained(
        "a warning where a code has the label of another one, or stands for a missing answer",
        "1 is Yes here and No there",
        "labels that agree",
    ),
    "rule broken": Explained(
        "the condition is plainly not met",
        "hours 99 under hours <= 80",
        "hours refused under hours <= 80",
    ),
    "rule cannot be held": Explained(
        "its formula means nothing any more",
        "a rule on a variable that was removed",
        "a rule on one that was renamed",
    ),
    "a rule's span means others": Explained(
        "the variables between the ends of a span are others now than when the rule was written",
        "count(site_1..site_6) > 0 after site_2a was moved between site_2 and site_3",
        "count(site_1..site_6) > 0 after another variable was moved behind site_6",
    ),
}
"""Every check, by its name."""
