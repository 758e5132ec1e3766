"""What locators depend on, kind by kind, and what is said about it."""

from __future__ import annotations

import pytest

from conftest import read
from wary_hound import Page, assess, parse
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import attribute_kind, attribute_look
from wary_hound.robustness.model import key_of

HTML = """<body><main id="app"><section class="card mt-4 box__x8Qa2" aria-label="Nights"><h2>Open nights</h2>
<ul><li data-row="7"><b>Vega</b> <button type="button" data-test="hold" class="btn is-open">Hold</button></li>
<li><b>Saturn</b> <button type="button" class="btn">Hold</button></li></ul>
<label for="u6996538">E-mail</label><input id="u6996538" name="email" placeholder="you@example.org" value="12">
<a href="/nights/4711" title="All nights" target="_blank">More (12)</a>
<sky-dial><template shadowrootmode="open"><p>North</p></template>
</sky-dial><iframe src="w.html" srcdoc="<i>Wind</i>"></iframe></section></main></body>"""
PAGE = Page.parse(HTML)


@pytest.mark.parametrize(
    ("locator", "groups"),
    [
        ("css{#app}", ["id/named"]),
        ("css{main#app}", ["tag", "id/named"]),
        ("css{.card}", ["class/named"]),
        ("css{.mt-4}", ["class/utility"]),
        ("css{.box__x8Qa2}", ["class/hashed"]),
        ("css{.is-open}", ["class/state"]),
        ("css{[data-test=hold]}", ["test-attribute/named"]),
        ("css{[data-row='7']}", ["data/number"]),
        ("css{[data-row]}", ["having"]),
        ("css{[aria-label=Nights]}", ["aria-label/words"]),
        ("css{#u6996538}", ["id/generated"]),
        ("css{[name=email]}", ["name/named"]),
        ("css{[placeholder^=you]}", ["placeholder~/words"]),
        ("css{[value='12']}", ["value/number"]),
        ("css{[href*='4711']}", ["href~/number"]),
        ("css{[href='/nights/4711']}", ["href/numbered"]),
        ("css{[title='All nights']}", ["title/words"]),
        ("css{[target=_blank]}", ["attribute/named"]),
        ("css{[for=u6996538]}", ["for/generated"]),
        ("css{[class*=card]}", ["class~/named"]),
        ("css{input}", ["tag"]),
        ("css{ul > li:first-child b}", ["tag", "descendant", "tag", "place", "child", "tag"]),
        ("css{label + input}", ["tag", "adjacent", "tag"]),
        ("css{h2 ~ a}", ["tag", "sibling", "tag"]),
        ("css{li:nth-of-type(2) > b}", ["tag", "child", "tag", "place"]),
        ("css{section:has(h2)}", ["tag", "other"]),
        ("css{input:enabled}", ["tag", "state-attribute"]),
        ("css{button}#2", ["tag", "ordinal"]),
        ("xpath{//input}", ["tag"]),
        ('xpath{//input[@name="email"]}', ["tag", "name/named"]),
        ('xpath{//*[@id="app"]}', ["id/named"]),
        ('xpath{//a[contains(@href, "nights")]}', ["tag", "href~/named"]),
        ('xpath{//b[.="Vega"]}', ["tag", "content/words"]),
        ('xpath{//b[normalize-space()="Saturn"]}', ["tag", "content/words"]),
        ('xpath{//b[text()="Vega"]}', ["tag", "content/words"]),
        ('xpath{//a[starts-with(., "More")]}', ["tag", "content~/words"]),
        ("xpath{//li[2]/b}", ["tag", "child", "tag", "place"]),
        ("xpath{//ul//li[2]/b}", ["tag", "child", "tag", "place", "descendant", "tag"]),
        ("xpath{/html/body/main}", ["tag", "child", "tag", "child", "tag"]),
        ("xpath{(//button)[2]}", ["ordinal", "tag"]),
        ("xpath{//li[@data-row]}", ["tag", "having"]),
        ('xpath{//li[b="Vega"]//button}', ["tag", "descendant", "tag", "row-of", "content/words"]),
        ('xpath{//li[b[.="Vega"]]/button}', ["tag", "child", "tag", "row-of", "content/words"]),
        ("xpath{//h2/following-sibling::a}", ["tag", "sibling", "tag"]),
        ("xpath{//input[@name='email' and @value='12']}", ["tag", "name/named", "value/number"]),
        ("xpath{//label[count(*) = 0]}", ["tag", "other"]),
        ("role{heading}", ["role"]),
        ('role{link "More (12)"}', ["role", "accessible-name/data"]),
        ('role{link ~"More"}', ["role", "accessible-name~/words"]),
        ("label{E-mail}", ["label/words"]),
        ("label{~mail}", ["label~/words"]),
        ("text{Open nights}", ["text/words"]),
        ("text{~nights}", ["text~/words"]),
        ("css{button} @row-of text{Vega}", ["tag", "row-of", "text/words"]),
        ("css{a} @group-of text{Open nights}", ["tag", "group-of", "text/words"]),
        ("css{input} @after text{E-mail} @inside css{#app}", ["tag", "after", "text/words", "inside", "id/named"]),
        ("css{#app} -> css{h2}", ["id/named", "inside", "tag"]),
        ("shadow css{sky-dial} -> css{p}", ["tag", "shadow", "tag"]),
        ("frame css{iframe} -> text{Wind}", ["tag", "frame", "text/words"]),
    ],
)
def test_groups(locator: str, groups: list[str]) -> None:
    element = PAGE.find(locator)
    found = [d.group for d in dependencies(PAGE, parse(locator), element.index)]
    seen: list[str] = []
    for group in found:
        if not (group == "tag" and seen and seen[-1] == "tag"):
            seen.append(group)
    assert seen == groups


def test_each_fact_names_the_element_that_bears_it() -> None:
    locator = "css{#app li[data-row] > button}"
    element = PAGE.find(locator)
    bearers = {d.group: PAGE.tags[d.element] for d in dependencies(PAGE, parse(locator), element.index)}
    assert bearers == {"tag": "li", "child": "button", "having": "li", "descendant": "li", "id/named": "main"}


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("data-test", "test-attribute"),
        ("data-testid", "test-attribute"),
        ("data-qa-id", "test-attribute"),
        ("data-row", "data"),
        ("id", "id"),
        ("aria-label", "aria-label"),
        ("aria-expanded", "state-attribute"),
        ("aria-live", "aria"),
        ("aria-controls", "reference"),
        ("checked", "state-attribute"),
        ("autocomplete", "attribute"),
        ("part", "attribute"),
    ],
)
def test_kinds_of_attributes(name: str, kind: str) -> None:
    assert attribute_kind(name) == kind


def test_looks_of_attributes() -> None:
    assert attribute_look("type", "submit") == ""
    assert attribute_look("title", "Turn west") == "words"
    assert attribute_look("value", "12") == "number"
    assert attribute_look("id", "row-3") == "numbered"
    assert attribute_look("href", "/nights") == "path"
    assert [attribute_look("data", value) for value in ("#line3", "#lines", "#", "/lines")] == ["numbered", "named", "path", "path"]


@pytest.mark.parametrize(
    ("locator", "key"),
    [
        ("css{main#app}", "id"),
        ("css{input[name=email]}", "name"),
        ("css{a}", "tag"),
        ("css{li:first-child}", "place"),
        ("css{button}#2", "ordinal"),
        ("css{button} @row-of text{Vega}", "row-of/tag"),
        ('role{link "More (12)"}', "accessible-name"),
        ("css{#app} -> css{h2}", "tag"),
        ("css{section:has(h2)}", "tag"),
    ],
)
def test_what_a_locator_tells_its_element_apart_by(locator: str, key: str) -> None:
    element = PAGE.find(locator)
    assert key_of(dependencies(PAGE, parse(locator), element.index), element.index) == key


@pytest.mark.parametrize(
    ("locator", "reason"),
    [
        ("css{.card}", "depends on 1 styling class"),
        ("css{.card.mt-4}", "depends on 2 styling classes"),
        ("css{.box__x8Qa2}", "class box__x8Qa2 looks hashed"),
        ("css{#u6996538}", "its id looks generated"),
        ("css{button}#2", "is a number among alike matches"),
        ("css{li:nth-child(2)}", "position among 2 alike siblings"),
        ("css{[value='12']}", "its value attribute is a number or date"),
        ('role{link "More (12)"}', "its name is there to change"),
        ("css{#app h2}", "depends on the id of another element"),
        ("css{#app > section > h2}", "depends on 2 parent-child steps"),
        ("shadow css{sky-dial} -> css{p}", "depends on the shadow tree of its component"),
        ("xpath{//label[count(*) = 0]}", "depends on an expression that is hard to foresee"),
    ],
)
def test_reasons_a_person_can_read(locator: str, reason: str) -> None:
    assert reason in assess(locator, PAGE.find(locator)).reasons


def test_a_locator_must_find_the_element_that_it_is_judged_for() -> None:
    with pytest.raises(ValueError, match="does not find that element"):
        assess("css{h2}", PAGE.find("css{#app}"))


def test_ambiguous_locators_can_be_judged_for_one_of_their_elements() -> None:
    page = read("nights@r1")
    found = assess("css{.night-row button}", page.find_all("css{.night-row button}")[2])
    assert 0 < found.survival < 1


def test_a_step_of_xpath_is_bound_to_what_stands_around() -> None:
    page = Page.parse("<nav id=one><ul><li><a>Nights</a></li></ul></nav><nav id=two><b>Foot</b></nav>")
    link = page.find("css{a}").index
    for locator in ("xpath{//nav//a}", "xpath{//nav/ul//a}", "css{nav a}"):
        bound = {fact.element for fact in dependencies(page, parse(locator), link) if fact.value == "nav"}
        assert bound == {page.find("css{#one}").index}
