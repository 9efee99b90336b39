"""Cases of lines: long enough, and a route that frame and bar allow."""

from tests.cases import Case, table

length = table("line-length", rear_brake_line={"length_mm": 1030, "need_mm": 1000})
LENGTH = [
    length("goes", "reaches", figures={"slack_mm": 30}),
    length("goes", "reaches", rear_brake_line={"length_mm": 1000}),
    length(
        "no_go",
        "short",
        rear_brake_line={"length_mm": 999.5},
        figures={"short_mm": 0.5},
        ways=("rear_brake_line.length_mm",),
    ),
    length("goes", "reaches", rear_brake_line={"length_mm": 1040}),
    length("goes_if", "loose", rear_brake_line={"length_mm": 1040.5}, needs=("line cut shorter",)),
    length("unmeasured", "missing", rear_brake_line={"length_mm": None}, asks=("rear_brake_line.length_mm",)),
    length(None, None, rear_brake_line={"need_mm": None}),
    length(None, None, rear_brake_line=None),
]

front = table("line-length", front_brake_line={"length_mm": 615, "need_mm": 600})
FRONT = [  # 15 mm at a rim brake, 30 at the bar, 40 through the frame
    front("goes", "reaches", front_caliper={"type": "dual_pivot"}),
    front("goes_if", "loose", front_brake_line={"length_mm": 615.5}, front_caliper={"type": "linear_pull"}),
    front("goes", "reaches", front_brake_line={"length_mm": 630}, front_caliper={"type": "disc"}),
    front("goes_if", "loose", front_brake_line={"length_mm": 630.5}, front_caliper={"type": "disc"}),
    front("goes_if", "loose", front_brake_line={"length_mm": 630}),  # whichever brake: as for a rim brake
    front("goes", "reaches", front_brake_line={"length_mm": 640, "route": "front_disc_hidden"}),
]

STOPS, FULL, INSIDE, HIDDEN = (
    "rear_top_tube_stops",
    "rear_disc_full",
    "rear_disc_internal",
    "rear_disc_hidden",
)
route = table("line-route", frame={"routing": "external"}, rear_brake_line={"route": STOPS})
ROUTE = [
    route("goes", "runs"),
    route("goes", "runs", rear_brake_line={"route": FULL}),
    route("no_go", "no_stops", frame={"routing": "external_full_housing"}, ways=("rear_brake_line.route",)),
    route("goes", "runs", frame={"routing": "external_full_housing"}, rear_brake_line={"route": FULL}),
    route("no_go", "not_hidden", rear_brake_line={"route": INSIDE}),
    route("no_go", "not_hidden", rear_brake_line={"route": HIDDEN}),
    route("goes", "runs", frame={"routing": "internal_guided"}, rear_brake_line={"route": INSIDE}),
    route("goes", "runs", frame={"routing": "fully_hidden"}, rear_brake_line={"route": HIDDEN}),
    route("no_go", "outside", frame={"routing": "fully_hidden"}, rear_brake_line={"route": FULL}),
    route("no_go", "hidden_bar", handlebar={"routing": "fully_hidden"}, ways=("handlebar.routing",)),
    route("unmeasured", "missing", frame={"routing": None}, asks=("frame.routing",)),
    route(None, None, rear_brake_line={"route": None}),
    route(None, None, frame=None),
]

CASES: list[Case] = [*LENGTH, *FRONT, *ROUTE]
