"""Selectors and expressions to judge by: written for each feature, and generated from a page's own content by a seed."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import replace

from wary_hound import Page, convert
from wary_hound.locator.css.printing import css_identifier, css_string
from wary_hound.locator.making import css, label, role, text
from wary_hound.locator.values import Hop, Locator, Related, Relation
from wary_hound.locator.xpath.printing import xpath_string

_CSS = """div|div > a|ul li:first-child|input[type="checkbox"]|input[TYPE=CHECKBOX]|div ~ div|h2 + *|a[href^="#"]|*:not(div)
tr:nth-child(2n+1) td|td:last-child|li:nth-of-type(2)|button, a|p:only-child|div:empty|:root > body|:is(h1, h2) ~ *
li:nth-last-child(-n+2)|:nth-child(2 of a, button)|section:has(> h2)|tr:has(td a):not(:last-child)|label:has(+ input)
input:checked|option:checked|input:required|:disabled|button:enabled|input:read-write|[class*="night"]|[id$="e"]
[aria-label="close notice" i]|[class~="button"]|a:any-link|*|:where(main) h2|:has(> a) > a|:scope > *|:only-of-type
input:placeholder-shown|input:in-range|[data-test]|button:not([data-test], [id])|:not(:not(a))|INPUT
:nth-last-of-type(1)|fieldset > :nth-child(n+3)|:lang(en)
form:has(input:checked)|:optional|:default"""
CSS = _CSS.replace("\n", "|").split("|")
CSS += ["[lang|=en]", ":is(:unknown, button)", "*|a", "use[*|href]", "[*|href]:not(a)"]
NOT_CSS_3 = """:is :where :has :checked :re :in- :en :dis :any of-type(1) :only-of :scope :lang :plac :opt :def not([ :not(:
TYPE INPUT""".split()
CSS_3 = [s for s in CSS if not any(x in s for x in (*NOT_CSS_3, " of ", " i]"))]
_XPATH = """//div/a|//ul/li[1]|//tr[2]/td[last()]|//input[@type="checkbox"]|//*[contains(@class,"night")]/..|(//a)[3]
//a[position()<3]|//div[count(*)>2]|//td/following-sibling::*[1]|//li/ancestor::div[1]|//*[text()]|//comment()/..
//a[normalize-space()!=""]/preceding::*[2]|//body//div//a[not(@id)]|//*[starts-with(name(),"h")]|//*[@id]/@class
//tr[td[2]]|//div[div and a or p]|//*[string-length(normalize-space(.)) > 20 and not(*)]|//a|//button|/html/*[2]
//option[@selected or position()=1]|//label/following::input[1]|//*[@value=2]|//*[sum(@value)>1]|id("nights")//tr
//input[not(@type="radio")][2]|//*[substring(@class,2,3)="utt"]|//*[translate(@name,"aeiou","")="vstr"]|//h2|//h3
//button[.="Hold this night"][3]|//td[number()>6]|//td[. mod 4 = 0]|//*[@class and @id]|//tr/descendant-or-self::td[2]
//*[self::h1 or self::h2]|//p/text()|//*[lang("en")]/h1
//table//tr[position() mod 2 = 1]|//tr[last()-1]|//svg|//DIV"""
XPATH = _XPATH.replace("\n", "|").split("|")


def generated(page: Page, tree: int, seed: int, count: int) -> Iterator[tuple[str, str]]:
    """Pairs of a strategy (`css` or `xpath`) and an expression, made of what the tree holds."""
    dice = random.Random(seed)
    elements = page.index.in_tree[tree].tolist()

    def simple(index: int) -> str:
        ways = [css_identifier(page.tags[index])]
        for name, value in page.attributes_of(index).items():
            ways.append(f"[{css_identifier(name)}]")
            if name == "class":
                ways.extend("." + css_identifier(token) for token in value.split())
            elif 0 < len(value) < 80:
                ways.append(f"[{css_identifier(name)}={css_string(value)}]")
                ways.append(f"[{css_identifier(name)}{dice.choice('^$*')}={css_string(value[:6])}]")
        place = page.index.place[index]
        ways.append(dice.choice([f":nth-child({place})", ":first-child", ":not(a)", f":nth-last-child({place})", ":empty"]))
        return dice.choice(ways)

    def step(index: int) -> str:
        tests: list[str] = []
        for name, value in page.attributes_of(index).items():
            if name.isidentifier() and '"' not in value:
                tests.append(f'@{name}="{value}"')
        shown = page.semantics.own_text[index]
        if shown and len(shown) < 60:
            tests.append(f"normalize-space()={xpath_string(shown)}")
            tests.append(f"contains(., {xpath_string(shown[:8])})")
        tests.append(str(page.index.place_of_type[index]))
        tests.append(f"position()={page.index.place_of_type[index]}")
        name = dice.choice([page.tags[index], "*"])
        return name + (f"[{dice.choice(tests)}]" if dice.random() < 0.7 else "")

    for _ in range(count):
        target = dice.choice(elements)
        above = [a for a in page.ancestors(target) if a in elements]
        if dice.random() < 0.5:
            yield "css", (simple(dice.choice(above)) + dice.choice([" ", " > "]) if above else "") + simple(target)
        else:
            yield "xpath", "//" + (step(dice.choice(above)) + dice.choice(["/", "//"]) if above else "") + step(target)


def compiled(page: Page) -> Iterator[tuple[str, str]]:
    """Locators by role, name, label and relation for what is shown in the top document, each with the XPath made of it."""
    semantics = page.semantics
    shown = [page[i] for i in page.index.in_tree[0].tolist() if semantics.visible[i]]
    heading = next(e for e in shown if e.role == "heading" and e.text)
    for element in shown:
        spoken = []
        if element.role and element.name:
            spoken += [role(element.role, element.name), role(element.role, element.name[:6].strip(), part=True)]
        if semantics.label(element.index):
            spoken.append(label(semantics.label(element.index)))
        for relation in (Relation.GROUP_OF, Relation.AFTER, Relation.BEFORE):
            spoken.append(replace(css(element.tag), relations=(Related(relation, text(heading.text)),)))
        for finder in spoken:
            locator = Locator((Hop(finder),))
            yield str(locator), convert(locator, "xpath").hops[0].finder.expression
