"""The manual beside the work: at the page of what is chosen, by its sections' names, and its own way back."""

from playwright.sync_api import expect

from tests.browser.conftest import until


def test_it_opens_at_what_is_chosen_and_leads_on(studio):
    studio.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst.find(({kind}) => kind === 'spectrum'))")
    studio.keyboard.press("F1")
    panel = studio.get_by_role("complementary", name="Manual")
    heading = panel.get_by_role("heading", name="A spectrum", exact=True)
    expect(heading).to_be_in_viewport()
    panel.get_by_role("button", name="contents").click()
    panel.get_by_role("link", name="Working fast").click()
    expect(panel.get_by_role("heading", name="Working fast")).to_be_in_viewport()
    panel.get_by_role("button", name="back").click()
    panel.get_by_role("button", name="back").click()
    expect(heading).to_be_in_viewport()
    studio.keyboard.press("Escape")
    expect(panel).to_be_hidden()


def test_its_sections_are_found_by_name(studio):
    studio.keyboard.press("Control+k")
    studio.get_by_role("combobox", name="Find anything").fill("the pen")
    option = studio.get_by_role("option", name="The pen manual")
    expect(option).to_be_visible()
    studio.keyboard.press("Enter")
    expect(
        studio.get_by_role("complementary", name="Manual").get_by_role("heading", name="The pen")
    ).to_be_in_viewport()
    until(studio, "velvet.manual.address === '/manual/hands#the-pen'")
