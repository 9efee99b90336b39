"""Every address of the application, by what it is about."""

from django.urls import URLPattern, URLResolver, include, path

from unkett.web.pages import health
from unkett.web.pages.bike import views as bike
from unkett.web.pages.calculators import views as calculators
from unkett.web.pages.catalogue import table, write
from unkett.web.pages.catalogue import views as catalogue
from unkett.web.pages.causes import views as causes
from unkett.web.pages.customers import views as customers
from unkett.web.pages.history import views as history
from unkett.web.pages.identify import views as identify
from unkett.web.pages.intake import first, inspection
from unkett.web.pages.intake import views as intake
from unkett.web.pages.job import link, papers
from unkett.web.pages.job import views as job
from unkett.web.pages.options import views as options
from unkett.web.pages.part import views as part
from unkett.web.pages.parts_bin import counted, piece
from unkett.web.pages.parts_bin import views as bench
from unkett.web.pages.partslist import views as partslist
from unkett.web.pages.people import account, sign_in, team, tour
from unkett.web.pages.people import log as people_log
from unkett.web.pages.plan import slots
from unkett.web.pages.plan import views as plan
from unkett.web.pages.quote import views as quote
from unkett.web.pages.resale import views as resale
from unkett.web.pages.rulebook import complaints as complaints_book
from unkett.web.pages.rulebook import views as rulebook
from unkett.web.pages.schedule import views as schedule
from unkett.web.pages.setups import views as setups
from unkett.web.pages.stand import views as stand
from unkett.web.pages.steps import packages
from unkett.web.pages.steps import views as steps
from unkett.web.pages.supply import views as supply
from unkett.web.pages.suspension import views as suspension
from unkett.web.pages.transfer import views as tables
from unkett.web.pages.ways import fixes
from unkett.web.pages.ways import gears as ways_gears
from unkett.web.pages.ways import views as ways
from unkett.web.pages.wear import views as wear
from unkett.web.pages.work import lines
from unkett.web.pages.work import views as work
from unkett.web.pages.yard import first_day
from unkett.web.pages.yard import views as yard

BIKES = [
    path("", yard.yard_page, name="yard"),
    path("first-day/close/", first_day.close, name="first-day-close"),
    path("bikes/add/", yard.add, name="bike-add"),
    path("bikes/new/", first.new, name="intake-new"),
    path("bikes/<int:bike_id>/look-over/", inspection.look, name="inspection"),
    path("bikes/<int:bike_id>/gear/", inspection.gear, name="gear-read"),
    path("bikes/<int:bike_id>/look-over/<slug:name>/", inspection.picture, name="inspection-picture"),
    path("bikes/<int:bike_id>/intake/<slug:name>/", intake.station, name="intake-station"),
    path("bikes/<int:bike_id>/", stand.stand, name="stand"),
    path("bikes/<int:bike_id>/measure/", stand.measure, name="part-measure"),
    path("bikes/<int:bike_id>/accept/", stand.accept, name="finding-accept"),
    path("bikes/<int:bike_id>/ask-again/", stand.reopen, name="finding-reopen"),
    path("bikes/gone/", bike.gone, name="gone"),
    path("bikes/<int:bike_id>/particulars/", bike.details, name="details"),
    path("bikes/<int:bike_id>/leave/", bike.leave, name="bike-leave"),
    path("bikes/<int:bike_id>/back/", bike.back, name="bike-back"),
    path("bikes/<int:bike_id>/set-ups/", setups.set_ups, name="set-ups"),
    path("bikes/<int:bike_id>/set-ups/<int:set_up_id>/put-on/", setups.put_on, name="set-up-put-on"),
    path("bikes/<int:bike_id>/set-ups/<int:set_up_id>/forget/", setups.remove, name="set-up-remove"),
    path("bikes/<int:bike_id>/copy/", stand.copy, name="bike-copy"),
    path("bikes/<int:bike_id>/undo/", stand.undo, name="bike-undo"),
    path("bikes/<int:bike_id>/build.json", stand.build_file, name="build-file"),
    path("bikes/<int:bike_id>/history/", history.history, name="history"),
    path("bikes/<int:bike_id>/log/", history.log, name="log"),
    path("bikes/<int:bike_id>/parts/", part.open_slot, name="part-open"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/", part.part, name="part-edit"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/fill/", part.fill, name="part-fill"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/fit/", part.fit, name="part-fit"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/off/", part.off, name="part-off"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/nothing/", part.nothing, name="part-nothing"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/move/", part.move, name="part-move"),
    path("bikes/<int:bike_id>/work/<slug:page>/", work.of_standing, name="work"),
    path("bikes/<int:bike_id>/keep/<slug:name>/", work.keep, name="typed-keep"),
    path("bikes/<int:bike_id>/lines/cut/", lines.cut_standing, name="lines-cut"),
    path("bikes/<int:bike_id>/lines/is-cut/", lines.is_cut, name="lines-is-cut"),
    path("bikes/<int:bike_id>/lines/<slug:slot>/route/", lines.route, name="line-route"),
    path("bikes/<int:bike_id>/lines/<slug:slot>/point/", lines.point, name="line-point"),
    path("bikes/ledgers/", resale.books, name="resales"),
    path("bikes/<int:bike_id>/ledger/", resale.book, name="resale"),
    path("bikes/<int:bike_id>/ledger/keep/", resale.keep, name="resale-keep"),
    path("bikes/<int:bike_id>/ledger/add/", resale.add, name="resale-add"),
    path("bikes/<int:bike_id>/ledger/<int:line_id>/remove/", resale.remove, name="resale-remove"),
    path("bikes/<int:bike_id>/cut/", work.cut, name="steerer-cut"),
    path("bikes/<int:bike_id>/from-bin/", bench.from_bin, name="from-bin"),
    path("bikes/<int:bike_id>/suspension/", suspension.suspension, name="suspension"),
    path("bikes/<int:bike_id>/suspension/<slug:slot>/next/", suspension.preview, name="suspension-next"),
    path("bikes/<int:bike_id>/suspension/write/", suspension.write, name="suspension-write"),
    path("bikes/<int:bike_id>/suspension/rider/", suspension.rider, name="suspension-rider"),
    path("bikes/<int:bike_id>/suspension/card/", suspension.card, name="suspension-card"),
    path("bikes/<int:bike_id>/suspension/card/make/", suspension.make_card, name="suspension-make"),
    path("bikes/<int:bike_id>/suspension/card/<int:task_id>/", suspension.card_file, name="suspension-file"),
    path("bikes/<int:bike_id>/wear/", wear.book, name="wear"),
    path("bikes/<int:bike_id>/wear/read/", wear.read, name="wear-read"),
    path("bikes/<int:bike_id>/causes/", causes.show, name="causes"),
    path("bikes/<int:bike_id>/causes/complain/", causes.complain, name="complain"),
    path("bikes/<int:bike_id>/causes/say/", causes.say, name="check-say"),
    path("bikes/<int:bike_id>/causes/take-back/", causes.take_back, name="check-take-back"),
    path("bikes/<int:bike_id>/causes/settle/", causes.settle, name="cause-settle"),
    path("bikes/<int:bike_id>/causes/try-again/", causes.try_again, name="complaints-try"),
    path("wear/<int:reading_id>/strike/", wear.void, name="wear-void"),
]
PLANS = [
    path("bikes/<int:bike_id>/plans/", plan.start, name="plan-start"),
    path("plans/<int:plan_id>/", plan.show, name="show"),
    path("plans/<int:plan_id>/parts/<slug:slot>/", slots.drawer, name="drawer"),
    path("plans/<int:plan_id>/parts/<slug:slot>/swap/", slots.swap, name="part-swap"),
    path("plans/<int:plan_id>/take-over/<slug:slot>/", slots.take_over, name="take-over"),
    path("plans/<int:plan_id>/parts/<slug:slot>/empty/", slots.empty, name="slot-empty"),
    path("plans/<int:plan_id>/parts/<slug:slot>/take-back/", slots.take_back, name="change-take-back"),
    path("plans/<int:plan_id>/parts/<slug:slot>/carry-out/", slots.apply, name="change-apply"),
    path("plans/<int:plan_id>/parts/", slots.open_slot, name="slot-open"),
    path("plans/<int:plan_id>/parts/<slug:slot>/typed/", slots.typed, name="slot-typed"),
    path("plans/<int:plan_id>/parts/<slug:slot>/lying/", slots.lying, name="slot-lying"),
    path("plans/<int:plan_id>/parts/<slug:slot>/take/", slots.take, name="slot-take"),
    path("plans/<int:plan_id>/parts/<slug:slot>/as-there/", slots.as_there, name="slot-as-there"),
    path("plans/<int:plan_id>/parts/<slug:slot>/brought/", slots.brought, name="change-brought"),
    path("plans/<int:plan_id>/carry-out/", slots.apply, name="plan-apply"),
    path("plans/<int:plan_id>/lines/<slug:slot>/route/", lines.plan_route, name="line-route"),
    path("plans/<int:plan_id>/lines/cut/", lines.cut_planned, name="lines-cut"),
    path("plans/<int:plan_id>/parts-list/", partslist.parts, name="parts-list"),
    path("plans/<int:plan_id>/options/", options.show, name="options"),
    path("plans/<int:plan_id>/options/add/", options.add, name="option-add"),
    path("plans/<int:plan_id>/options/choose/", options.choose, name="option-choose"),
    path("plans/<int:plan_id>/ways/", ways.ways, name="ways"),
    path("plans/<int:plan_id>/ways/ask/", ways.ask, name="ways-ask"),
    path("plans/<int:plan_id>/ways/<int:task_id>/stop/", ways.stop, name="ways-stop"),
    path("plans/<int:plan_id>/ways/<int:task_id>/take/", ways.take, name="ways-take"),
    path("plans/<int:plan_id>/quote/", quote.quote, name="quote"),
    path("plans/<int:plan_id>/quote/add/", quote.add, name="quote-add"),
    path("plans/<int:plan_id>/quote/<int:line_id>/agree/", quote.agree, name="quote-agree"),
    path("plans/<int:plan_id>/quote/<int:line_id>/drop/", quote.drop, name="quote-drop"),
    path("plans/<int:plan_id>/quote/free/", quote.free, name="quote-free"),
    path("plans/<int:plan_id>/quote/price/", quote.price, name="quote-price"),
    path("plans/<int:plan_id>/quote/choose/", quote.choose, name="quote-choose"),
    path("plans/<int:plan_id>/quote/make-pdf/", quote.make_pdf, name="quote-pdf"),
    path("plans/<int:plan_id>/quote/<int:task_id>/quote.pdf", quote.pdf_file, name="quote-file"),
    path("plans/<int:plan_id>/link/", link.give, name="link-give"),
    path("links/<int:link_id>/seen/", yard.answer_seen, name="answer-seen"),
    path("plans/<int:plan_id>/customer-told/", yard.customer_told, name="customer-told"),
    path("links/<int:link_id>/withdraw/", link.withdraw, name="link-withdraw"),
    path("plans/<int:plan_id>/gear-search/", ways_gears.gears, name="gear-search"),
    path("plans/<int:plan_id>/way-out/", fixes.way_out, name="way-out"),
    path("plans/<int:plan_id>/pick/", fixes.pick, name="pick"),
    path("plans/<int:plan_id>/name/", plan.rename, name="plan-name"),
    path("plans/<int:plan_id>/copy/", plan.copy, name="plan-copy"),
    path("plans/<int:plan_id>/state/", plan.move, name="plan-move"),
    path("plans/<int:plan_id>/packages/", plan.packages, name="plan-packages"),
    path("plans/<int:plan_id>/work/<slug:page>/", work.of_planned, name="work"),
    path("plans/<int:plan_id>/build.json", plan.build_file, name="build-file"),
]
JOBS = [
    path("plans/<int:plan_id>/job/", job.job, name="job"),
    path("plans/<int:plan_id>/job/start/", job.start, name="start"),
    path("jobs/<int:job_id>/anew/", job.update, name="update"),
    path("jobs/<int:job_id>/steps/<int:step_id>/tick/", job.tick, name="tick"),
    path("jobs/<int:job_id>/steps/<int:step_id>/take-back/", job.take_back, name="take-back"),
    path("jobs/<int:job_id>/steps/<int:step_id>/skip/", job.skip, name="skip"),
    path("jobs/<int:job_id>/steps/<int:step_id>/hold/", job.hold, name="hold"),
    path("jobs/<int:job_id>/steps/<int:step_id>/sign/", job.sign, name="sign"),
    path("jobs/<int:job_id>/steps/<int:step_id>/picture/", job.picture, name="picture"),
    path("jobs/<int:job_id>/steps/<int:step_id>/picture.jpg", job.picture_file, name="picture-file"),
    path("jobs/<int:job_id>/found/<slug:what>/", job.find, name="find"),
    path("jobs/<int:job_id>/steps/<int:step_id>/does-not-fit/", job.fits_not, name="fits-not"),
    path("plans/<int:plan_id>/job/tag/", job.tag, name="tag"),
    path("jobs/<int:job_id>/note/", job.note, name="note"),
    path("jobs/<int:job_id>/outside/", job.outside, name="outside"),
    path("jobs/<int:job_id>/outside/<int:outside_id>/back/", job.back, name="outside-back"),
    path("jobs/<int:job_id>/hand-over/", job.hand_over, name="hand-over"),
    path("jobs/<int:job_id>/paper/<slug:sort>/", papers.paper, name="paper"),
    path("jobs/<int:job_id>/paper/<slug:sort>/make-pdf/", papers.make, name="make-pdf"),
    path("jobs/<int:job_id>/paper/<int:task_id>/file.pdf", papers.file, name="file"),
    path("follow-ups/<int:follow_up_id>/looked/", job.look_again, name="look-again"),
    path("days/", schedule.days, name="days"),
    path("days/work-out/", schedule.work_out, name="days-work-out"),
    path("days/stands/", schedule.stands, name="days-stands"),
    path("days/hours/<int:user_id>/", schedule.hours, name="days-hours"),
    path("days/move/<int:job_id>/<int:session>/", schedule.move, name="days-move"),
    path("days/calendar.ics", schedule.calendar, name="calendar"),
    path("steps/", steps.steps, name="steps"),
    path("steps/write/", steps.write, name="step-write"),
    path("steps/drop/", steps.drop, name="step-drop"),
    path("packages/", packages.packages, name="packages"),
    path("packages/write/", packages.write, name="package-write"),
    path("packages/drop/", packages.drop, name="package-drop"),
    path("tools/", packages.tools, name="tools"),
]
CATALOGUE = [
    path("catalogue/", catalogue.parts, name="parts"),
    path("catalogue/called/<slug:slot>/", catalogue.called, name="parts-called"),
    path("catalogue/table/", table.table, name="table"),
    path("catalogue/table/take/", table.take, name="table-take"),
    path("catalogue/new/", write.new, name="part-new"),
    path("catalogue/starter/", catalogue.starter, name="starter"),
    path("catalogue/<int:part_id>/", catalogue.part, name="part"),
    path("catalogue/<int:part_id>/change/", write.change, name="part-change"),
    path("catalogue/<int:part_id>/retire/", write.retire, name="part-retire"),
]
BENCH = [
    path("bench/", bench.bench, name="list"),
    path("bench/labels/", bench.labels, name="labels"),
    path("bench/write/", piece.enter, name="enter"),
    path("bench/counted/", counted.counted, name="counted"),
    path("bench/counted/add/", counted.add, name="stock-add"),
    path("bench/counted/<int:stock_id>/", counted.life, name="counted-life"),
    path("bench/counted/<int:stock_id>/change/", counted.change, name="counted-change"),
    path("bench/counted/<int:stock_id>/remove/", counted.remove, name="stock-remove"),
    path("bench/count/", counted.count, name="count"),
    path("bench/count/differences/", counted.counted_out, name="counted-out"),
    path("bench/<int:bike_part_id>/", piece.piece, name="piece"),
    path("bench/<int:bike_part_id>/leave/", piece.leave, name="part-leave"),
    path("bench/<int:bike_part_id>/back/", piece.back, name="part-back"),
    path("bench/<int:bike_part_id>/keep/", piece.keep, name="part-keep"),
    path("bench/<int:bike_part_id>/wanted-by/", piece.who_wants, name="needing"),
]
SUPPLY = [
    path("supply/", supply.supply, name="list"),
    path("supply/suppliers/new/", supply.keep, name="supplier-new"),
    path("supply/suppliers/<int:supplier_id>/", supply.keep, name="supplier-keep"),
    path("supply/suppliers/<int:supplier_id>/ask/", supply.ask, name="offers-ask"),
    path("supply/plans/<int:plan_id>/order/", supply.order_plan, name="plan-order"),
    path("supply/orders/<int:order_id>/", supply.order, name="order"),
    path("supply/orders/<int:order_id>/count/", supply.count, name="line-count"),
    path("supply/orders/<int:order_id>/expect/", supply.expect, name="line-expect"),
    path("supply/orders/<int:order_id>/send/", supply.send, name="order-send"),
    path("supply/orders/<int:order_id>/drop/", supply.drop, name="order-drop"),
    path("supply/orders/<int:order_id>/arrive/", supply.arrived, name="line-arrive"),
]
TABLES = [
    path("tables/", tables.sheets, name="list"),
    path("tables/<slug:code>/", tables.sheet, name="sheet"),
    path("tables/<slug:code>/take/", tables.take, name="take"),
]
CUSTOMERS = [
    path("customers/", customers.customers, name="list"),
    path("customers/<int:customer_id>/", customers.customer, name="customer"),
    path("customers/<int:customer_id>/kept.json", customers.kept, name="kept"),
    path("customers/<int:customer_id>/forget/", customers.forget, name="forget"),
]
MEASURE = [
    path("measure/", identify.sorts, name="sorts"),
    path("measure/<slug:kind>/", identify.sort, name="sort"),
    path("measure/<slug:kind>/put/", identify.put, name="found-put"),
]
WORK_OUT = [
    path("work-out/", calculators.names, name="names"),
    path("work-out/<slug:name>/", calculators.calculation, name="calculation"),
]
RULE_BOOK = [
    path("rules/", rulebook.book, name="book"),
    path("rules/schema.json", rulebook.schema, name="schema"),
    path("rules/settings/", rulebook.settings, name="settings"),
    path("rules/settings/change/", rulebook.change, name="setting-change"),
    path("rules/names/", rulebook.names, name="names"),
    path("rules/names/add/", rulebook.add_name, name="name-add"),
    path("rules/names/<int:name_id>/remove/", rulebook.remove_name, name="name-remove"),
    path("rules/tables/<slug:name>/", rulebook.standard, name="table"),
    path("rules/complaints/", complaints_book.complaints, name="complaints"),
    path("rules/complaints/<slug:code>/", complaints_book.complaint, name="complaint"),
    path("rules/complaints/<slug:code>/keep/", complaints_book.keep, name="complaint-keep"),
    path("rules/<slug:rule_id>/", rulebook.rule, name="rule"),
]
WORKSHOP = [
    path("health/", health.health, name="health"),
    path("sign-in/", sign_in.sign_in, name="sign-in"),
    path("sign-in/code/", sign_in.second_factor, name="second-factor"),
    path("sign-out/", sign_in.sign_out, name="sign-out"),
    path("set-up/", team.set_up, name="set-up"),
    path("join/<str:link>/", team.join, name="join"),
    path("look/<str:link>/", link.look, name="look"),
    path("units/", account.units, name="own-units"),
    path("tour/", tour.tour, name="tour"),
    path("units/bridge/", account.bridge, name="bridge"),
    path("units/password/", account.password, name="password"),
    path("units/sessions/<int:signed_in_id>/end/", account.end_session, name="session-end"),
    path("units/second-factor/", account.begin_factor, name="factor-begin"),
    path("units/second-factor/confirm/", account.confirm_factor, name="factor-confirm"),
    path("units/second-factor/end/", account.end_factor, name="factor-end"),
    path("people/", team.team, name="team"),
    path("people/invite/", team.invite, name="invite"),
    path("people/invitations/<int:invitation_id>/withdraw/", team.withdraw, name="invitation-withdraw"),
    path("people/<int:user_id>/role/", team.role, name="person-role"),
    path("people/<int:user_id>/active/", team.active, name="person-active"),
    path("people/<int:user_id>/new-password/", team.new_password, name="person-password"),
    path("people/<int:user_id>/second-factor/", team.drop_factor, name="person-factor"),
    path("log/", people_log.log, name="log-list"),
    path("log/security/", people_log.security, name="security"),
]


def _of(patterns: list[URLPattern], name: str) -> URLResolver:
    return path("", include((patterns, name)))


urlpatterns = [
    _of(BIKES, "bikes"),
    _of(PLANS, "plans"),
    _of(JOBS, "jobs"),
    _of(CATALOGUE, "catalogue"),
    _of(BENCH, "bench"),
    _of(SUPPLY, "supply"),
    _of(TABLES, "tables"),
    _of(CUSTOMERS, "customers"),
    _of(MEASURE, "measure"),
    _of(WORK_OUT, "calculators"),
    _of(RULE_BOOK, "rulebook"),
    _of(WORKSHOP, "workshop"),
]

handler404 = "unkett.web.pages.errors.not_found"
handler403 = "unkett.web.pages.errors.forbidden"
handler400 = "unkett.web.pages.errors.bad_request"
handler500 = "unkett.web.pages.errors.broken"
