"""Files that are spoiled, and requests that nobody should make: what comes of many thousands of them."""

from tools.fuzz import Found, attack_files, attack_requests

SEED = 28
WAYS = ("read", "refused", "stumbled", "broke", "refused badly")


def files_told(count: int) -> list[str]:
    """A table of so many spoiled files by what they were made of, and what went wrong."""
    found = attack_files(count, SEED, lambda line: print(line, flush=True))
    out = ["| file | spoiled | read | refused in a sentence | wrong |", "|---|---|---|---|---|"]
    for name, replies in sorted(found.by_name.items()):
        wrong = sum(replies[way] for way in WAYS[2:])
        out.append(f"| {name} | {sum(replies.values()):,} | {replies['read']:,} | {replies['refused']:,} | {wrong:,} |")
    return [*out, "", f"The slowest took {found.slowest:.1f} s.", *_wrong(found)]


def requests_told(count: int) -> str:
    """What came of so many odd requests."""
    found = attack_requests(count, SEED, lambda line: print(line, flush=True))
    replies = ", ".join(f"{number:,} × {status}" for status, number in sorted(found.replies.items()))
    told = (
        f"{count:,} requests, made at random by the interface's own description: {replies}; {len(found.wrong):,} of "
        "them took long, or were answered with an error inside or without a sentence. The slowest took "
        f"{found.slowest:.1f} s."
    )
    return "\n".join([told, *_wrong(found)])


def _wrong(found: Found) -> list[str]:
    stumbles = [f"Stumbled: {where}: {first}" for where, first in sorted(found.stumbles.items())]
    return [*stumbles[:10], *(f"Wrong: {each}" for each in found.wrong[:10])]
