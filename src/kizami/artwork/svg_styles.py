"""Style sheets of a drawing, written into its elements: what applies to each is decided once, by rank."""

from __future__ import annotations

from xml.etree.ElementTree import Element

import cssselect2
import tinycss2

__all__ = ["properties_of", "style_into_elements"]

#: Of ancestors that a selector may name: each is looked for along all that an element has.
_MOST_ANCESTORS = 3
#: Rules of this kind say nothing about shapes.
_HARMLESS = ("charset", "font-face", "keyframes", "namespace", "-webkit-keyframes")


def style_into_elements(root: Element) -> tuple[str, ...]:
    """Write what style sheets say into the `style` of every element that they speak of, by the rules of the
    cascade (CSS Cascading and Inheritance, from memory): attributes, then rules by rank and order, then the
    element's own style, then what is marked important.

    Returns
    -------
    what of the sheets can't be followed

    >>> from xml.etree.ElementTree import fromstring
    >>> root = fromstring('<svg><style>g .b{fill:white} .b{fill:red}</style><g><path class="b"/></g></svg>')
    >>> style_into_elements(root), root.find("g/path").get("style")
    ((), 'fill:white')
    """
    matcher, notes = _rules_of(root)
    if matcher is None:
        return tuple(notes)
    wrapped = cssselect2.ElementWrapper.from_xml_root(root)
    for element in wrapped.iter_subtree():
        if not isinstance(element.etree_element.tag, str):
            continue
        usual: dict[str, str] = {}
        important: dict[str, str] = {}
        for *_, (said, said_loudly) in sorted(matcher.match(element), key=lambda match: match[:2]):
            usual |= said
            important |= said_loudly
        own = element.etree_element.get("style", "")
        calm, loud = _declared(tinycss2.parse_blocks_contents(own))
        whole = usual | calm | important | loud
        if whole:
            element.etree_element.set("style", ";".join(f"{k}:{v}" for k, v in whole.items()))
    return tuple(dict.fromkeys(notes))


def _rules_of(root: Element) -> tuple[cssselect2.Matcher | None, list[str]]:
    """What the sheets of a drawing say, ready to be matched; None where there are none."""
    sheets = [e for e in root.iter() if str(e.tag).rsplit("}", 1)[-1] == "style"]
    matcher, notes = cssselect2.Matcher(), []
    for sheet in sheets:
        text = "".join(sheet.itertext())
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type == "at-rule" and rule.lower_at_keyword not in _HARMLESS:
                notes.append("style rules for some media")
            if rule.type != "qualified-rule":
                continue
            if "var(" in tinycss2.serialize(rule.content):
                notes.append("variables in styles")
            if _most_ancestors(rule.prelude) > _MOST_ANCESTORS:
                notes.append("style rules of very many parts")
                continue
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                notes.append("style rules of another kind")
                continue
            declared = _declared(tinycss2.parse_blocks_contents(rule.content))
            for selector in selectors:
                if selector.pseudo_element is None:
                    matcher.add_selector(selector, declared)
    has_styles = any(e.get("style") for e in root.iter())
    return (matcher if sheets or has_styles else None), notes


def _most_ancestors(prelude: list[tinycss2.ast.Node]) -> int:
    """How many ancestors the longest selector of a list names: at most as many as it has spaces."""
    most = here = 0
    for node in prelude:
        here = 0 if node == "," else here + (node.type == "whitespace")
        most = max(most, here)
    return most - 1


def _declared(nodes: list[tinycss2.ast.Node]) -> tuple[dict[str, str], dict[str, str]]:
    """What declarations say: by the way, and marked important."""
    usual: dict[str, str] = {}
    important: dict[str, str] = {}
    for node in nodes:
        if node.type == "declaration":
            value = tinycss2.serialize(node.value).strip()
            (important if node.important else usual)[node.lower_name] = value
    return usual, important


def properties_of(element: Element) -> dict[str, str]:
    """Attributes of an element and, over them, what its style says; names without their namespace.

    >>> from xml.etree.ElementTree import fromstring
    >>> properties_of(fromstring('<path fill="red" style="fill:white"/>'))["fill"]
    'white'
    """
    said = {str(key).rsplit("}", 1)[-1]: value for key, value in element.attrib.items()}
    usual, important = _declared(tinycss2.parse_blocks_contents(said.get("style", "")))
    return said | usual | important
