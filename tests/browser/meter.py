"""A meter in the hand: every pair of a dead test read, one after the other as the page asks for them, and
other figures.
"""

from playwright.sync_api import expect


def read_pairs(page, volts="0.1"):
    """Reads every pair that the step in hand still asks for."""
    rows = page.locator("#now [data-row]")
    for n in range(rows.count()):
        field = rows.nth(n).get_by_label("V at worst")
        if field.input_value():
            continue
        expect(field).to_be_visible()
        field.fill(volts)
        field.press("Enter")


def read_figures(page):
    """Reads what the step in hand asks to be measured."""
    for figure, shown in (("through", "0.3"), ("insulation", ">500")):
        field = page.locator(f"#now [name='figure:{figure}']")
        if field.count():
            field.fill(shown)
