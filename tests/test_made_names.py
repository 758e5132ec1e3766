"""Names that a program makes up, and what a person wrote of them: which of it locators rest on."""

from __future__ import annotations

import re

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from lxml import html as lxml_html

from wary_hound import Page, rank
from wary_hound.authoring.alternatives import says_itself
from wary_hound.authoring.batch import usable
from wary_hound.authoring.predicates import stem_of
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, best_of_each
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.weakness import is_weak
from wary_hound.journey.naming import names_for
from wary_hound.locator.notation import parse
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import COMMON, attribute_look
from wary_hound.robustness.looks import look_of_class, look_of_token
from wary_hound.robustness.model import ChangeModel, key_of

SERVER_SIDE = """<form id="aspForm"><span>Visitor</span><input name="ctl00$Main$txtVisitor" id="ctl00_Main_txtVisitor" class="f">
<input name="ctl00$Main$txtHour" id="ctl00_Main_txtHour" class="f"><label for="form:j_idt34:hour_input">Hour</label>
<input id="form:j_idt34:hour_input"><button id="form:j_idt36" type="submit">Send booking</button>
<label for=":r9:-form-item">Star</label><input id=":r9:-form-item" class="f"><button id="«rb»" role="combobox">Vega</button>
<button id="__page0-dome">North</button><button id="__page0-sky">South</button></form>"""
CARDS = """<main><h1>Nights</h1><div class="{list}">{cards}</div></main>"""
CARD = """<div class="{card}"><div><div><p>{star}</p></div><span>{places} places</span></div>
<div><button class="rounded px-2">Hold</button><button class="text-gray-400"><i class="bi bi-trash"></i></button></div></div>"""


def cards(card: str) -> str:
    each = (CARD.format(card=card, star=star, places=k) for k, star in enumerate(("Vega", "Saturn", "Albireo")))
    return CARDS.format(list="mt-6 grid", cards="".join(each))


def of(page: Page, locator: str, *only: str) -> list[Candidate]:
    return rank(page.find(locator), Question(ways=1, rules=Rules(only=only)))


@pytest.mark.parametrize(
    ("look", "values"),
    [
        (
            "generated",
            """:r1a: :R1lalbm: «rb» _r_1_ :r9:-form-item menu-button-:r1: gen12-button ext-gen1023 j_idt45 form:j_idt23:save
            button-1042-inner __button7-inner __page0-sky id3f ui-id-9 night_id_4f f_1f2a8c3b
            row-8421-17 rct0.6411144451 45:1482;a note.10214-foot note.10214""",
        ),
        ("hashed", "sc-bdVaJa sc-1a2b3c4d-0 css-1q2w3e-Button _9vcv _send_1x9ab_12 Button_send__3xY2z styles_hold__Ab3dE"),
        (
            "numbered",
            "w0 q1 m31 ctl00_Main_btnSave tabs-0-tab-map night_3 step-2 grid2 gen2 night-2026-03-14 text-field-12 address1",
        ),
        (
            "named",
            """h2 iron-a11y buttons-html5 transforms3d time24hr md5 utf8 goToTop setUpDome form:row:save customer_form_id
            collapseOne gridview valid sky-2d innerHTML""",
        ),
    ],
)
def test_what_names_look_like(look: str, values: str) -> None:
    assert {value: look_of_token(value) for value in values.split()} == dict.fromkeys(values.split(), look)


@pytest.mark.parametrize(
    ("look", "values"),
    [
        (
            "utility",
            """px-4 -mt-2 md:flex hover:bg-blue-500 data-[state=open]:hidden text-gray-700 bg-white/80 w-1/2 max-w-7xl min-h-[40px]
            flex inline-flex relative truncate sr-only font-semibold tracking-tight leading-6 space-x-3 divide-y ring-2
            cursor-pointer rounded-full justify-content-between align-items-center ms-auto me-2 fw-bold fs-5 d-none
            text-muted-foreground""",
        ),
        ("state", "ng-untouched ng-pristine is-open has-error tab--active"),
        ("named", "text-field flexible grid-night block-sky select-all bordered roundel top-bar order-form hidden-sky btn-primary"),
    ],
)
def test_what_classes_look_like(look: str, values: str) -> None:
    assert {value: look_of_class(value) for value in values.split()} == dict.fromkeys(values.split(), look)


WORDS = """night nights star visitor name hour save send booking status dome sky seeing places hold edit row table panel tab list
item search result menu filter main header total price form field input button link note member school group""".split()


@given(st.lists(st.sampled_from(WORDS), min_size=1, max_size=4), st.sampled_from("- _ -- : . camel".split()), st.integers(2, 60))
def test_words_of_a_person_are_a_name_and_with_a_number_hold_one(words: list[str], joined: str, number: int) -> None:
    name = "".join(map(str.title, words)) if joined == "camel" else joined.join(words)
    assert look_of_token(name) == "named"
    assert look_of_token(f"{name}-{number}") == "numbered"


@given(st.text("0123456789abcdefghijklmnopqrstuv", min_size=1, max_size=4), st.sampled_from(["", "menu-", "menu-item-"]))
def test_a_counter_between_colons_is_of_a_program(counter: str, before: str) -> None:
    assume(not counter.isalpha() or len(counter) < 3)
    assert look_of_token(f"{before}:r{counter}:") == "generated"


@pytest.mark.parametrize(
    ("element", "best"),
    [
        ("css{#ctl00_Main_txtVisitor}", 'css{[id$="_txtVisitor"]}'),
        ("css{#form\\:j_idt34\\:hour_input}", "label{Hour}"),
        ("css{#__page0-sky}", 'css{[id$="-sky"]}'),
        ("css{#\\:r9\\:-form-item}", "label{Star}"),
    ],
)
def test_what_stands_behind_a_counter_says_which(element: str, best: str) -> None:
    assert str(of(Page.parse(SERVER_SIDE), element)[0].locator) == best


def test_no_name_of_a_program_is_proposed_where_something_else_tells() -> None:
    page = Page.parse(SERVER_SIDE)
    for element in page.find_all("css{input, button}"):
        strong = [str(one.locator) for one in rank(element, Question(ways=1)) if not one.weak]
        assert strong, element
        assert not [said for said in strong if re.search(r"#\\:|#form|«|j_idt(?!34:)|-form-item|\^=\"form", said)], element
    (hour,) = (str(one.locator) for one in of(page, "label{Hour}", "css")[:1])
    assert hour == 'css{[id$=":hour_input"]}'


def test_the_end_of_a_name_tells_and_the_beginning_of_a_family_does_not() -> None:
    page = Page.parse(SERVER_SIDE)
    kinds = {
        said: [d.group for d in dependencies(page, parse(said), page.find(said).index)]
        for said in ('css{[id$="_txtHour"]}', 'xpath{//*[contains(@id, "_txtHour")]}', 'css{[id^="ctl00_Main_txtH"]}')
    }
    assert list(kinds.values()) == [["id$/named"], ["id$/named"], ["id~/numbered"]]


def test_a_class_with_a_digest_is_asked_for_by_what_a_person_wrote() -> None:
    page = Page.parse(
        """<main><button class="Button_base__x9Ab2 Button_send__k2Lm3">Send</button>
        <button class="Button_base__x9Ab2 Button_cancel__q1W2e">Cancel</button></main>"""
    )
    best = of(page, "text{Send}", "css")
    assert str(best[0].locator) == 'css{[class*="Button_send__"]}'
    assert not [one for one in best if "k2Lm3" in str(one.locator) and not one.weak]
    page = Page.parse('<main><button class="Button_send__k2Lm3" value=send>Send</button><button value=no>Cancel</button></main>')
    button = page.find("text{Send}")
    stands = {
        said: says_itself(assess(said, button), button.index, page)
        for said in ('css{[value="send"]}', 'css{[class*="Button_send__"][value="send"]}')
    }
    assert list(stands.values()) == [True, False]


@pytest.mark.parametrize(
    ("card", "row"),
    [
        ("night", 'div[contains(concat(" ", normalize-space(@class), " "), " night ")][.//p="Saturn"]'),
        ("flex rounded-lg", 'div[div/div/p="Saturn"]'),
    ],
)
def test_the_card_of_a_text_in_xpath(card: str, row: str) -> None:
    button = Page.parse(cards(card)).find('role{button "Hold"} @row-of text{Saturn}')
    best = best_of_each(rank(button, Question(ways=1)))["xpath"]
    assert not best.weak
    assert str(best.locator) == f'xpath{{//{row}//button[normalize-space()="Hold"]}}'
    (found,) = lxml_html.fromstring(cards(card)).xpath(  # another library as judge
        str(best.locator)[len("xpath{") : -1]
    )
    assert "".join(found.xpath("ancestor::div[2]//p/text()")) == "Saturn"


def test_an_icon_goes_by_its_own_name_and_not_by_that_of_its_set() -> None:
    said = [str(one.locator) for one in of(Page.parse(cards("night")), "css{button:has(i)} @row-of text{Vega}")]
    assert said[0] == "css{button:has(.bi-trash)} @row-of text{Vega}"
    assert not [one for one in said if "(.bi)" in one]


def test_an_icon_that_nobody_named_goes_by_its_sheet_or_its_outline() -> None:
    page = Page.parse(
        """<main><button><svg><use xlink:href="/icons.svg#icon-share"/></svg></button>
        <button><svg><use href="#icon-print"/></svg></button><button><svg><path d="M3 17.25V21h3.75L17.81 9"/></svg></button>
        <button><svg><path d="M6 19c0 1.1.9 2 2 2h8"/></svg></button>
        <button><svg data-icon=moon><path d="M9 2c1 0 2 .3 2.9.7"/></svg></button></main>"""
    )
    said = [of(page, f"css{{button}}#{k}", "css")[0] for k in range(1, 6)]
    assert [str(one.locator) for one in said] == [
        'css{button:has([*|href$="#icon-share"])}',
        'css{button:has([href="#icon-print"])}',
        'css{button:has([d^="M3 17.25V21h3.75"])}',
        'css{button:has([d^="M6 19c0 1.1.9 2 2 2"])}',
        'css{button:has([data-icon="moon"])}',
    ]
    assert not [one for one in said if one.weak]
    assert not [one for one in of(page, "css{button}#5", "css") if "[d^=" in str(one.locator)]
    assert names_for(page.find_all("css{button}")) == ["share", "print", "button", "button-2", "moon"]


def test_nothing_idle_guards_what_is_weak() -> None:
    field = '<div class="field"><label for="{0}">{1}</label><input type="text" name="{2}" id="{0}"></div>'
    lines = "".join(field.format(f"n_stars_{k}_hour", "Hour", f"n[stars][{k}][hour]") for k in range(2))
    title = field.format("n_title", "Title", "n[title]")
    page = Page.parse(
        f'<form action="/n/42"><input type="hidden" name="_method" value="patch">{title}{lines}<input type="submit"></form>'
    )
    said = [str(one.locator) for one in of(page, "css{#n_stars_0_hour}", "css")]
    assert said[0] == "css{#n_stars_0_hour}"
    assert not [one for one in said if "form:has(" in one]


def test_what_only_a_counted_neighbour_tells_is_counted() -> None:
    page = Page.parse('<div id="tab-3"><input id="field-4"><button>Hold</button><a href="/x">More</a></div>')
    keys = {
        said: key_of(dependencies(page, parse(said), page.find(said).index), page.find(said).index)
        for said in ("css{#tab-3 button}", "css{div:has(#field-4) button}", 'css{#tab-3 [href="/x"]}', "css{div button}")
    }
    assert list(keys.values()) == ["id/counted", "id/counted", "href", "tag"]


def test_names_of_all_elements_are_those_that_a_person_would_give() -> None:
    rows = "".join(
        f'<tr id=n_{k}><td>{star}<td><input name="places[{k}]"><td><button id="j_idt{k}"><i class="bi bi-trash"></i></button>'
        for k, star in enumerate(("Vega", "Saturn"), 41)
    )
    pages = '<ul><li title="Next page"><button></button></li><li title="Page before"><button></button></li></ul>'
    fields = '<label>Hour<input name=h1></label><label>Hour<input name=h2></label><input id="ctl00_Main_txtVisitor">'
    menu = "<div role=menu><div role=menuitem><i role=img aria-label=calendar></i>Nights</div></div>"
    table = f"<table><thead><tr><th>Star<th>Places<th></thead>{rows}</table>"
    named = names_for(usable(Page.parse(f"<main>{menu}{fields}{table}{pages}</main>")))
    assert (
        named
        == """nights hour hour-2 txt-visitor places-vega trash-vega places-saturn trash-saturn next-page page-before""".split()
    )


TITLED = """<div class="card"><div><h5>{star}</h5><p>{said}</p><a href="#">Details</a>
<button><i class="icon-heart"></i> {likes}</button></div></div>"""


def test_a_card_goes_by_its_title_and_not_by_a_sentence_or_a_figure() -> None:
    cards = "".join(
        TITLED.format(star=s, said=t, likes=n) for s, t, n in (("Vega", "Brightest in Lyra.", 12), ("Saturn", "Rings.", 7))
    )
    page = Page.parse(f"<main><ul><li><h6>Vega</h6><li><h6>Saturn</h6></ul><div class=list>{cards}</div></main>")
    said = [str(of(page, f"css{{{tag}}}#2")[0].locator) for tag in ("a", "button")]
    assert said == ['xpath{//div[h5="Saturn"]//a}', 'xpath{//div[h5="Saturn"]//button}']
    assert not [one for one in of(page, "css{button}#2") if not one.weak and "7" in str(one.locator)]


def test_letters_of_a_digest_are_no_words() -> None:
    assert stem_of("row_nights_bb8efcd4ab24730b") == "row_nights_"
    assert stem_of("lines-0-weight") == "lines-"
    assert stem_of("night42") == "night"
    assert stem_of("bb8efcd4ab24730b") == ""
    assert stem_of("42-night") == ""
    keys = ("bb8efcd4ab24730b7cd34e88ac390878", "233ea1805dab5120a0ecc49b71a48063")
    rows = "".join(
        f'<tr id=row_nights_{key}><td><a href="night.do?id={key}" aria-label="Preview NGT{n}"></a><td>NGT{n}'
        for n, key in enumerate(keys)
    )
    page = Page.parse(f"<table>{rows}</table>")
    ranked = rank(page.find("css{a}#1"))
    said = " ".join(str(one.locator) for one in ranked)
    assert 'id^="row_nights_bb' not in said
    assert keys[0] not in str(ranked[0].locator)  # nobody types that


def test_keys_made_up_and_shared_say_nothing_for_long() -> None:
    page = Page.parse('<p><b data-testid="note.10214-foot"><i>x</i></b><b><i>y</i></b><u id=one>a</u><em><u id=one>b</u></em>')
    field = Page.parse('<p data-testid="note.10214-foot"><input name=reply>').find("css{input}")
    assert is_weak(dependencies(field.page, parse('css{[data-testid="note.10214-foot"] [name="reply"]}'), field.index), field.index)
    inner = page.find("css{i}#1").index
    assert is_weak(dependencies(page, parse('css{[data-testid="note.10214-foot"] i}'), inner), inner)
    doubled = page.find("css{u}#2").index
    facts = dependencies(page, parse("css{em #one}"), doubled)
    assert [fact.remark for fact in facts if fact.kind == "id"] == [COMMON]
    model = ChangeModel.shipped()
    assert model.rate(model.lost, "test-attribute/generated") == model.rate(model.lost, "id/generated")
    assert attribute_look("href", "./visit?8-1.-form") == "numbered"
    assert attribute_look("href", "night.do?id=bb8efcd4ab24730b7cd34e88ac390878") == "generated"
    assert attribute_look("href", "/nights?view=table") == "path"
