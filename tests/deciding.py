"""What an editor decides, put into the document: the framings that the core computes, each in its place."""

from dataclasses import dataclass

from ezvar.core import edits, framing
from ezvar.core.framing import Place
from ezvar.core.model import Document


def _in_pane(change):
    """A change of a place's pane as one of the document; which pane comes as ``pane``."""

    def changed(doc, shot, master, *what, pane=0, **more):
        return edits.set_framings(doc, [change(Place(doc, shot, master, pane), *what, **more)])

    return changed


def _of_pane(change):
    """As `_in_pane`, the pane's number before what else there is to say."""
    return lambda doc, shot, master, number, *what: _in_pane(change)(doc, shot, master, *what, pane=number)


follow, follow_too, follow_from = _in_pane(framing.follow), _in_pane(framing.follow_too), _in_pane(framing.follow_from)
keep_both, ask, arranged = _in_pane(framing.keep_both), _in_pane(framing.ask), _in_pane(framing.arranged)
swapped, heard = _in_pane(framing.swapped), _in_pane(framing.heard)
in_two_panes, in_one_pane = _in_pane(framing.in_two_panes), _in_pane(framing.in_one_pane)
put_by_hand = _in_pane(framing.put_by_hand)
trim_to, shows = _of_pane(framing.trim_to), _of_pane(framing.shows)


def apply_remedy(place, *what):
    return edits.set_framings(place.doc, [framing.apply_remedy(place, *what)])


def solved_with(doc, asked, analysis):
    return edits.set_framings(doc, [framing.solved_with(doc, asked, analysis)])


@dataclass
class Given:
    doc: Document
    skipped: tuple[str, ...]


def _given(change):
    def changed(doc, *what):
        found = change(doc, *what)
        return Given(edits.set_framings(doc, found.framings), found.skipped)

    return changed


give, reset = _given(framing.give), _given(framing.reset)
