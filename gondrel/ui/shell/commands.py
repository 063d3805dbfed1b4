"""Every command of a window: what it is called, its key, and what it does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from gondrel.ui.session.stations import Station
from gondrel.ui.shell.command import Command
from gondrel.ui.shell.gathering import ask_and_gather
from gondrel.ui.shell.host import Host

__all__ = ["commands_of"]


def commands_of(window: Host) -> list[Command]:
    """The commands of a window, in the order of the shortcuts page."""
    session = window.session

    def stage(act: str, *how: float) -> Callable[[], object]:
        """A command of the picture, which is made after the window."""
        return lambda: getattr(window.stage, act)(*how) if window.stage is not None else None

    def look(view: str) -> Callable[[], object]:
        return lambda: window.stage.canvas.set_view(view) if window.stage is not None else None

    def move(act: str, *how: float) -> Callable[[], object]:
        return lambda: getattr(window.stage.canvas, act)(*how) if window.stage is not None else None

    table = [
        Command("open", "Receive a file\u2026", "File", ("Ctrl+O",), window.choose_file, "open import"),
        Command(
            "open-choose",
            "Receive with choices\u2026",
            "File",
            ("Ctrl+Shift+O",),
            window.choose_with_choices,
            "kinds layers unit scale recipe",
        ),
        Command(
            "open-beside",
            "Receive beside what is there\u2026",
            "File",
            (),
            window.choose_to_add,
            "add into",
        ),
        Command(
            "drawing",
            "Make a part of a drawing\u2026",
            "File",
            ("Ctrl+Alt+O",),
            partial(window.show_page, "drawing"),
            "dxf profile outline extrude sketch",
        ),
        Command(
            "paste-drawing", "Paste a drawing", "File", ("Ctrl+V",), window.paste_drawing, "dxf clipboard"
        ),
        Command("open-folder", "Receive a folder\u2026", "File", (), window.choose_folder, "several files"),
        Command("demo", "Look at the demo", "File", (), window.open_demo, "example"),
        Command("save", "Save crossing", "File", ("Ctrl+S",), window.save),
        Command("save-as", "Save crossing as\u2026", "File", ("Ctrl+Shift+S",), window.save_as),
        Command("new-window", "New window", "File", ("Ctrl+N",), window.new_window),
        Command("report-html", "Save report as HTML\u2026", "File", ("Ctrl+R",), window.save_html),
        Command(
            "gather",
            "Gather its files\u2026",
            "File",
            (),
            partial(ask_and_gather, window),
            "archive zip received referenced sent list",
        ),
        Command("report-pdf", "Save report as PDF\u2026", "File", ("Ctrl+P",), window.save_pdf, "print"),
        Command("proof-json", "Save proof as JSON", "File", (), window.save_proof),
        Command("close", "Close window", "File", ("Ctrl+W",), window.close),
        Command("undo", "Undo", "Edit", ("Ctrl+Z",), session.undo),
        Command("redo", "Redo", "Edit", ("Ctrl+Y", "Ctrl+Shift+Z"), session.redo),
        Command("new-product", "Prepare an empty product", "Edit", (), window.add_empty_product, "house"),
        Command("copy-names", "Copy names of selected items", "Edit", ("Ctrl+C",), window.items.copy_names),
        Command("select-all", "Select every unfolded row", "Edit", ("Ctrl+A",), window.manifest.select_all),
        Command("select-none", "Select nothing", "Edit", ("Esc",), window.clear),
        Command("find", "Find a command, item or setting", "Edit", ("Ctrl+K",), window.open_search),
        Command("filter", "Filter the manifest", "Edit", ("Ctrl+F",), window.manifest.filter.setFocus),
        Command("settings", "Settings", "Edit", ("Ctrl+,",), window.show_settings, "author unit theme"),
        *(
            Command(f"go-{s + 1}", f"Go to {s.title}", "Stations", (str(s + 1),), partial(session.go, s))
            for s in Station
        ),
        Command("fit", "Fit selection, or everything", "Picture", ("F",), stage("fit"), "zoom"),
        Command("fit-all", "Fit everything", "Picture", ("Shift+F",), stage("fit_all"), "zoom"),
        *(
            Command(f"view-{view}", f"View from {said}", "Picture", (key,), look(view))
            for view, said, key in (
                ("front", "the front", "Ctrl+1"),
                ("back", "the back", "Ctrl+2"),
                ("left", "the left", "Ctrl+3"),
                ("right", "the right", "Ctrl+4"),
                ("top", "above", "Ctrl+5"),
                ("below", "below", "Ctrl+6"),
            )
        ),
        Command("view-home", "Home view", "Picture", ("H",), look("home")),
        Command("parallel", "Parallel or perspective", "Picture", ("P",), window.toggle_parallel),
        Command("turn-left", "Turn to the left", "Picture", ("Left",), move("turn", -1, 0)),
        Command("turn-right", "Turn to the right", "Picture", ("Right",), move("turn", 1, 0)),
        Command("turn-up", "Turn up", "Picture", ("Up",), move("turn", 0, -1)),
        Command("turn-down", "Turn down", "Picture", ("Down",), move("turn", 0, 1)),
        Command("shift-left", "Shift to the left", "Picture", ("Shift+Left",), move("shift", 1, 0)),
        Command("shift-right", "Shift to the right", "Picture", ("Shift+Right",), move("shift", -1, 0)),
        Command("shift-up", "Shift up", "Picture", ("Shift+Up",), move("shift", 0, 1)),
        Command("shift-down", "Shift down", "Picture", ("Shift+Down",), move("shift", 0, -1)),
        Command("nearer", "Nearer", "Picture", ("+", "="), move("come", 1.25), "zoom in"),
        Command("farther", "Farther", "Picture", ("-",), move("come", 0.8), "zoom out"),
        Command("swap", "Swap received and returned (hold Space)", "Picture", (), stage("swap_for_good")),
        Command("map", "Colour by deviation", "Picture", ("D",), stage("toggle_map"), "map compare"),
        Command("section", "Section", "Picture", ("X",), stage("toggle_section"), "cut plane hatch inside"),
        Command("section-on", "Step the section on", "Picture", ("]",), stage("step_section", 1), "plane"),
        Command(
            "section-back", "Step the section back", "Picture", ("[",), stage("step_section", -1), "plane"
        ),
        Command(
            "picture",
            "Save a picture\u2026",
            "Picture",
            ("Ctrl+Shift+P",),
            partial(window.show_page, "picture"),
            "screenshot png scale bar",
        ),
        Command(
            "draw",
            "Draw views as DXF, SVG or PDF\u2026",
            "Work",
            ("Ctrl+Shift+D",),
            partial(window.show_page, "draw"),
            "drawing sheet title block hidden lines outline cutting",
        ),
        Command(
            "measures",
            "Tables of holes, walls, clearances, mass",
            "Items",
            ("Ctrl+M",),
            partial(window.show_page, "measures"),
            "hole table weight inertia thickness",
        ),
        Command(
            "views", "Views that are kept", "Picture", ("V",), partial(window.show_page, "views"), "camera"
        ),
        Command(
            "keep-view", "Keep this view", "Picture", ("Shift+V",), stage("keep_view"), "camera bookmark"
        ),
        Command("explode", "Take apart", "Picture", ("E",), session.exploding.toggle, "explode assembly"),
        Command(
            "measure", "Measure", "Picture", ("M",), stage("toggle_measure"), "distance angle diameter"
        ),
        Command(
            "load", "Load the shapes of what is selected", "Items", (), session.loading_shapes.load_selected
        ),
        Command("load-all", "Load all shapes", "Items", (), session.loading_shapes.load_all),
        Command("hide", "Hide", "Items", ("Del",), window.items.hide_selected),
        Command("isolate", "Show only this", "Items", ("I",), window.items.isolate_selected, "isolate"),
        Command("faint", "See through", "Items", ("T",), window.items.faint_selected, "transparent"),
        Command("show", "Show again", "Items", ("Shift+Del",), window.items.show_selected, "unhide"),
        Command("show-all", "Show everything", "Items", ("A",), window.items.show_everything, "unhide"),
        Command("table", "Table of facts", "Items", ("Ctrl+B",), window.show_table, "metadata csv xlsx"),
        Command("group", "Put into a sub-assembly", "Items", ("Ctrl+G",), session.arranging.group, "group"),
        Command(
            "dissolve", "Dissolve a sub-assembly", "Items", ("Ctrl+Shift+G",), session.arranging.dissolve
        ),
        Command("delete", "Delete components", "Items", ("Ctrl+Del",), session.arranging.delete, "remove"),
        Command(
            "leave-out",
            "Leave out of what is sent",
            "Items",
            ("Ctrl+Shift+X",),
            session.arranging.leave_out,
            "send along again",
        ),
        Command(
            "earlier",
            "Earlier in the order",
            "Items",
            ("Alt+Up",),
            partial(session.arranging.put_in_order, "earlier"),
            "reorder up",
        ),
        Command(
            "later",
            "Later in the order",
            "Items",
            ("Alt+Down",),
            partial(session.arranging.put_in_order, "later"),
            "reorder down",
        ),
        Command(
            "recover", "Recover the structure", "Work", (), session.arranging.recover, "equal bodies flat"
        ),
        Command("check", "Check this model", "Work", ("Ctrl+E",), session.checking.check, "faults defects"),
        Command(
            "formats",
            "Compare formats for the recipient",
            "Work",
            (),
            partial(window.show_page, "formats"),
            "rank choose",
        ),
        Command(
            "rehearse",
            "Rehearse with a stand-in",
            "Work",
            (),
            partial(window.show_page, "rehearsal"),
            "simulate try",
        ),
        Command(
            "cards",
            "Recipient cards",
            "Work",
            (),
            partial(window.show_page, "cards"),
            "who reads keeps",
        ),
        Command(
            "sendings",
            "Sending log",
            "Work",
            (),
            partial(window.show_page, "sendings"),
            "what went to whom",
        ),
        Command(
            "batch",
            "Batch: send a folder of files",
            "Work",
            ("Ctrl+Shift+B",),
            partial(window.show_page, "batch"),
            "many drop watch",
        ),
        Command(
            "compare",
            "Compare with another model",
            "Work",
            ("Ctrl+D",),
            partial(window.show_page, "compare"),
            "revision difference overlay",
        ),
        Command(
            "record", "Show it in the file", "Work", ("R",), window.show_record, "record entity node text"
        ),
        Command(
            "register",
            "Register of items and revisions",
            "Work",
            ("Ctrl+I",),
            partial(window.show_page, "register"),
            "release withdraw where used repoint revision item",
        ),
        Command("stop", "Stop all work", "Work", ("Ctrl+.",), session.tasks.cancel, "cancel"),
        Command("log", "Log of notices", "Work", ("Ctrl+L",), window.show_log, "messages errors"),
        Command("history", "History of edits", "Work", ("Ctrl+H",), window.show_history, "undo"),
        Command("shortcuts", "Keys and shortcuts", "Work", ("F1", "?"), window.show_shortcuts, "help"),
    ]
    return table
