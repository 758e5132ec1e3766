"""Classes that say how an element looks, or in what state it is: what kits of styles and utilities are called, and states."""

from __future__ import annotations

import re

_SIZES = "auto|none|full|screen|min|max|fit|px|xs|sm|md|lg|xl|xxl|[2-9]xl|\\d+(?:[./]\\d+)?|\\d+xl"
_SIDES = "auto|none|center|left|right|start|end|top|bottom|middle|between|around|evenly|baseline|stretch"
_TONES = "white|black|transparent|current|inherit|primary|secondary|success|danger|warning|info|light|dark|muted|body|reset"
_COLOURS = (
    "red|orange|amber|yellow|lime|green|teal|turquoise|cyan|blue|navy|indigo|violet|purple|magenta|pink"
    "|rose|brown|gr[ae]y|silver|gold|volcano|geekblue|aqua|maroon|fuchsia|black|white"
)
_WEIGHTS = "thin|extralight|light|normal|medium|semibold|bold|bolder|extrabold|black|italic|mono|monospace|sans|serif"
_UTILITY = re.compile(
    r"[^:\s]+:[^:\s].*"  # a condition before it: `md:flex`, `hover:bg-amber-200`
    r"|!?-?[a-z][a-z-]*-\[.*\]"  # any value: `w-[32rem]`
    r"|!?-?(?:"
    rf"(?:[mp][trblxyse]?|[wh]|min-[wh]|max-[wh]|v[wh]|m[wh]|gap(?:-[xy])?|space-[xy]|inset(?:-[xy])?|top|left|bottom|right|start|end|size|basis)-(?:{_SIZES})"
    rf"|(?:col|row|cols|rows|offset|order|grid-cols|grid-rows|col-span|row-span|g|gx|gy|z|opacity|leading|lh|fs|duration|delay|line-clamp|columns|ring|ring-offset|stroke)-(?:{_SIZES})(?:-\d+)?"
    rf"|(?:col|row|offset|order|d|g|text|float|flex|align-items|justify-content|m[trblxyse]?|p[trblxyse]?)-(?:xs|sm|md|lg|xl|xxl)(?:-(?:{_SIZES}|{_SIDES}|block|inline|flex|inline-block|inline-flex|row|column|wrap|nowrap))?"
    rf"|(?:justify|items|align|content|self|place|float|pull|origin|object)(?:-(?:content|items|self))?-(?:{_SIDES}|cover|contain|fill)"
    r"|(?:flex|grid|d)-(?:row|col|column|wrap|nowrap|none|block|inline|inline-block|inline-flex|flex|grid|table|fill|auto|initial|grow(?:-\d)?|shrink(?:-\d)?|\d|row-reverse|col-reverse|column-reverse|wrap-reverse)"
    rf"|(?:text|bg|border(?:-[xytrblse])?|divide(?:-[xy])?|ring|outline|fill|stroke|from|via|to|accent|caret|decoration|placeholder|shadow|link)-(?:(?:[a-z]+-)?\d{{2,3}}|{_TONES}|{_SIZES})(?:/\d+)?"
    rf"|text-(?:{_SIDES}|{_WEIGHTS}|base|justify|wrap|nowrap|truncate|ellipsis|clip|break|balance|pretty|lowercase|uppercase|capitalize|underline|decoration-none|muted-foreground|foreground|monospace|hidden|nowrap)"
    r"|(?:bg|border|text|ring)-(?:muted|accent|card|popover|input|background|foreground|border|destructive|gradient-to-[a-z]+|opacity-\d+)(?:-foreground)?(?:/\d+)?"
    rf"|(?:font|fw|fst)-(?:{_WEIGHTS})|tracking-(?:tight|tighter|normal|wide|wider|widest)|leading-(?:none|tight|snug|normal|relaxed|loose)"
    r"|rounded(?:-[trbls][lr]?)?-(?:none|sm|md|lg|xl|[2-9]xl|full|circle|pill|\d)|shadow-(?:none|inner)"
    r"|overflow(?:-[xy])?-(?:auto|hidden|scroll|visible|clip)|whitespace-(?:normal|nowrap|pre|pre-line|pre-wrap)|break-(?:words|all|normal|keep)"
    r"|cursor-(?:pointer|default|not-allowed|text|move|grab|help|wait)|user-select-(?:none|text|all|auto)|select-(?:none|text)|pointer-events-(?:none|auto)|pe-none"
    r"|(?:transition|ease|animate|backdrop|blur|scale|rotate|translate|skew|aspect|will-change|mix-blend|list|table|caption|align|position|visibility|appearance)(?:-[xy])?"
    r"-(?:none|colors|opacity|shadow|transform|linear|in|out|in-out|spin|pulse|bounce|ping|blur(?:-\w+)?|\d+(?:[./]\d+)?|square|video|disc|decimal|inside|outside"
    r"|auto|fixed|middle|top|bottom|baseline|text-top|relative|absolute|static|sticky)"
    r"|inline-(?:block|flex|grid)|block|inline|grid|static|fixed|sticky|grow|shrink|flex|relative|absolute|truncate|uppercase|lowercase|capitalize|antialiased|subpixel-antialiased|not-italic|underline|no-underline|line-through"
    r"|transition|transition-all|transform|border|shadow|outline-none|appearance-none|resize-none|border-[xytrblse]|divide-[xy]|sr-only|not-sr-only|visually-hidden|invisible|rounded|rounded-[trblse][lrse]?|rounded-circle|img-fluid|stretched-link|isolate"
    r")"
)
"""What says one thing of the looks of an element, as kits of such classes call it."""
_KIT = re.compile(
    r"ng-(?:star-inserted|scope|binding|isolate-scope|trigger(?:-.+)?|animating)\Z"
    r"|.+-appearance-(?:outline|fill|standard|legacy|none)\Z"
    r"|"
    rf"(?:(?:[a-z]{{1,4}}-)?(?:text|bg|color|colour|btn|button|label|badge|tag|dot|chip|pill)[-_])?(?:(?:dark|light|pale|bright|deep)[-_]?)?(?:{_COLOURS})\Z"
    r"|(?:.+[-_])?(?:box|panel|card|callout|tile|portlet|widget)[-_](?:default|primary|secondary|success|info|warning|danger|light|dark|inverse)\Z"
    r"|(?:btn|button)(?:[-_](?:default|xs|sm|lg|small|large|block))*\Z"
    r"|(?:ui|md|ios|fa[dlrs]?|h[1-6]|display-[1-6])\Z"
    r"|(?:container|wrapper)(?:[-_]fluid)?\Z|(?:row|col|column|clearfix|pull-left|pull-right)\Z"
    r"|(?:.+[-_])?(?:corner|rounded|shadow)s?[-_](?:all|left|right|top|bottom|tl|tr|bl|br|xs|sm|md|lg)\Z"
    r"|(?:(?:small|larg|bigg|wid)er|small|large|medium|tiny|big|huge|mini|compact|wide|narrow|left|right|cent(?:er|re)(?:ed)?|bold|italic|underlined|truncated|ellipsis)\Z"
)
"""What kits of styles call every button and every box, and how large they are, or where, and how their corners are; what frameworks
mark all by that they made."""
_STATES = frozenset(
    """active inactive cur sel open
    opened closed hidden visible shown selected checked disabled enabled focus focused hover hovered
    current expanded collapsed loading loaded busy invalid valid error even odd first last end show on off in out true false
    dirty pristine touched untouched empty filled dragging sorting sorted asc desc ready hydrated locked unlocked muted unmuted
    pinned unpinned connected disconnected animate animated animating submitted up down positive negative""".split()
)
_STATE_PREFIX = re.compile(r"(?:is|has|no|not|state|js|ng)[-_](.+)\Z")
_STATE_CAMEL = re.compile(r"(?:is|has)[A-Z]")
_MODIFIER = (
    "active|inactive|selected|current|open|opened|closed|checked|disabled|enabled|pressed|toggled|hidden|visible|invisible|focused"
    "|hovered|expanded|collapsed|loading|animated|animating"
    "|dragging|sorted|asc|desc|ascending|descending|even|odd|first|last"
)
_STATE_END = re.compile(rf".+(?:[-_](?i:{_MODIFIER})|(?<=[a-z])(?:{'|'.join(word.title() for word in _MODIFIER.split('|'))}))\Z")
"""As modifiers are written: `tab--active`, `nav-current`, `sorting_asc`, `rowSelected`."""
_EVERY_OTHER = re.compile(
    r"(?:even|odd)(?:[-_A-Z].*)\Z|(?:.*[-_])?(?:[Rr]ow|[Ll]ine|[Ii]tem)[-_]?(?:[Aa]lt(?:ernat(?:e|ing))?|[Ss]triped?)\Z"
    r"|(?:.*[-_])?[Aa]lt(?:ernat(?:e|ing))?[-_]?(?:[Rr]ow|[Ll]ine|[Ii]tem)(?:[-_]?[Ss]tyle)?\Z"
)
"""As stripes are: `evenRow`, `odd-line`, `grid-row-alt`, `AlternatingItem`."""
_TURNING = re.compile(
    r"(?:.*[-_])?(?:pag(?:e|er|ing|ination)|go|goto|skip|step|move|nav|arrow|angle|chevron)[-_](?:first|last)\Z", re.I
)
"""What leads to the first page, and to the last one, is no state."""


def is_plain_state(value: str) -> bool:
    """Whether a class is a state, with nothing that has it: `active`, `is-open`."""
    prefixed = _STATE_PREFIX.match(value)
    return value.lower() in _STATES or (prefixed is not None and (prefixed.group(1).lower() in _STATES or value.startswith("is-")))


def ends_in_state(value: str) -> bool:
    """Whether a class says the state of what it names: `tab--active`, `rowSelected`, `evenRow`."""
    return not _TURNING.match(value) and any(pattern.match(value) for pattern in (_STATE_END, _STATE_CAMEL, _EVERY_OTHER))


def is_utility(value: str) -> bool:
    """Whether a class says how an element looks, or where it stands, and not what it is."""
    return _UTILITY.fullmatch(value) is not None or _KIT.match(value) is not None
