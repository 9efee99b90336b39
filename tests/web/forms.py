"""Reads the forms of a page, so that tests post the rendered fields."""

from html.parser import HTMLParser

from attrs import Factory, define


@define
class Form:
    """A form as it stands on a page: where it goes, how, and what its fields hold."""

    action: str
    method: str
    css: str
    fields: dict[str, str] = Factory(dict)


class _Forms(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.forms: list[Form] = []
        self.open: Form | None = None
        self.select = ""

    def handle_starttag(self, tag, attrs) -> None:
        given = {name: value or "" for name, value in attrs}
        if tag == "form":
            action, method = given.get("action", ""), given.get("method", "get")
            self.open = Form(action=action, method=method.lower(), css=given.get("class", ""))
            self.forms.append(self.open)
        if self.open is None:
            return
        fields, name = self.open.fields, given.get("name")
        if tag == "input" and name:
            if given.get("type") not in ("radio", "checkbox") or "checked" in given:
                fields[name] = given.get("value", "")
        elif tag in ("select", "textarea") and name:
            self.select = name
            fields[name] = ""
        elif tag == "option" and "selected" in given:
            fields[self.select] = given.get("value", "")

    def handle_endtag(self, tag) -> None:
        if tag == "form":
            self.open = None


def forms_of(text: str) -> list[Form]:
    reader = _Forms()
    reader.feed(text)
    return reader.forms
