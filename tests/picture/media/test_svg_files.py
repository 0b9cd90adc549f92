"""SVG files as programs write them: document types, switches, text, pictures; and what would cost too much to draw."""

import base64
import time

import cv2
import numpy as np
import pytest

from velvetdrum.picture.media.svg.drawn import Drawing, check_svg
from velvetdrum.picture.media.svg.parser import SvgError, parse_svg
from velvetdrum.picture.media.svg.styles import rules_of

DOCTYPE = '<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 40 20">'


def drawn(body, width=400, height=200, before=""):
    return Drawing((before + HEAD + body + "</svg>").encode()).pixels(width, height)


def picture(colours=((255, 0, 0), (0, 255, 0))):
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[:, :4], pixels[:, 4:] = (*colours[0][::-1], 255), (*colours[1][::-1], 255)
    return "data:image/png;base64," + base64.b64encode(cv2.imencode(".png", pixels)[1].tobytes()).decode()


def test_a_plain_document_type_is_passed_over():
    plain, typed = drawn('<rect width="20" height="20" fill="red"/>'), None
    typed = drawn('<rect width="20" height="20" fill="red"/>', before=DOCTYPE)
    assert np.array_equal(plain, typed) and tuple(typed[100, 100]) == (0, 0, 255, 255)
    with pytest.raises(SvgError, match="entities"):
        parse_svg((DOCTYPE.replace(">", ' [<!ENTITY a "b">]>') + HEAD + "</svg>").encode())


def test_a_switch_shows_what_can_be_shown():
    foreign = '<foreignObject width="9" height="9"><body xmlns="http://www.w3.org/1999/xhtml"><script>x()</script></body></foreignObject>'
    shown = drawn(f'<switch>{foreign}<rect width="20" height="20" fill="blue"/></switch>')
    assert tuple(shown[100, 100]) == (255, 0, 0, 255)
    languages = '<switch><rect systemLanguage="de" width="9" height="9"/><rect x="20" width="20" height="20"/></switch>'
    assert drawn(languages)[100, 100, 3] == 0 and drawn(languages)[100, 300, 3] == 255
    with pytest.raises(SvgError, match="nothing in its place"):
        check_svg(f"{HEAD}<switch>{foreign}</switch></svg>".encode())


def test_text_is_drawn_where_it_stands_and_missing_typefaces_are_named():
    body = '<text x="{x}" y="15" font-size="10" text-anchor="{anchor}" fill="#e0ac55">Quay</text>'
    boxes = {}
    for anchor, x in (("start", 2), ("middle", 20), ("end", 38)):
        cover = drawn(body.format(x=x, anchor=anchor))[..., 3]
        boxes[anchor] = cv2.boundingRect(cover)
        assert tuple(drawn(body.format(x=x, anchor=anchor))[cover == 255][0][:3]) == (0x55, 0xAC, 0xE0)
    widths = {round(box[2] / 4) for box in boxes.values()}
    assert len(widths) <= 2 and 180 < boxes["start"][2] < 320
    assert abs(boxes["start"][0] - 20) < 12
    assert abs(boxes["middle"][0] + boxes["middle"][2] / 2 - 200) < 8
    assert abs(boxes["end"][0] + boxes["end"][2] - 380) < 12
    # Four times the size, four times as far: text is outlines, and as sharp as they are.
    large = cv2.boundingRect(drawn(body.format(x=2, anchor="start"), 1600, 800)[..., 3])
    assert np.abs(np.array(large) / 4 - boxes["start"]).max() < 1.5
    facts = check_svg(f'{HEAD}<text font-family="Nowhere Sans, serif" y="9">A\u4e2d</text></svg>'.encode())
    assert any("Nowhere Sans" in note for note in facts.notes) and any("\u4e2d" in note for note in facts.notes)
    assert check_svg(f'{HEAD}<text font-family="Work Sans" y="9">A</text></svg>'.encode()).notes == ()


def test_pictures_in_a_file_are_drawn_in_their_place_and_order():
    href = picture()
    body = (
        '<rect width="40" height="20" fill="#000"/>'
        f'<image x="0" y="0" width="20" height="20" xlink:href="{href}"/><rect x="5" y="5" width="4" height="4" fill="#fff"/>'
    )
    found = drawn(body)
    assert tuple(found[30, 30]) == (0, 0, 255, 255) and tuple(found[30, 170]) == (0, 255, 0, 255)
    assert tuple(found[70, 70]) == (255, 255, 255, 255) and tuple(found[100, 300]) == (0, 0, 0, 255)


def test_pictures_in_a_file_are_turned_clipped_and_faded_with_what_holds_them():
    href = picture(((255, 0, 0), (255, 0, 0)))
    clip = '<clipPath id="c"><rect width="10" height="20"/></clipPath>'
    found = drawn(f'{clip}<g clip-path="url(#c)" opacity="0.5"><image width="20" height="20" xlink:href="{href}"/></g>')
    assert abs(int(found[100, 50, 3]) - 128) <= 2 and found[100, 150, 3] == 0
    moved = drawn(f'<g transform="translate(20 0) scale(0.5)"><image width="20" height="20" xlink:href="{href}"/></g>')
    assert moved[50, 150, 3] == 0 and moved[50, 250, 3] == 255 and moved[150, 250, 3] == 0


def test_style_sheets_are_written_into_what_they_style_in_their_order():
    body = '<style>/* one */ rect { fill: red } .b, #c { fill: blue }</style><rect class="b" width="20" height="20"/>'
    assert tuple(drawn(body)[100, 100]) == (255, 0, 0, 255)
    assert rules_of("a{b:c} @media print { d { e:f } } g,h{i:j}")[-2:] == [("g", "i:j"), ("h", "i:j")]
    assert rules_of("/*" * 10 + "a{b:c}") == []


def test_reading_takes_time_in_proportion_to_what_there_is():
    """Twice as much takes about twice as long: what grows with the square of it would take four times as long."""

    def seconds(count):
        text = (
            "<style>"
            + "/*" * count
            + "</style><style>"
            + "a{" * count
            + "</style><style>"
            + ".x{}" * count
            + "</style>"
        )
        begun = time.process_time()
        Drawing((HEAD + text + "<g/>" * 2000 + "</svg>").encode())
        return time.process_time() - begun

    seconds(2_000)
    assert seconds(200_000) < 30 * max(seconds(20_000), 0.02)


USES = "".join(f'<g id="u{n + 1}">' + f'<use href="#u{n}"/>' * 10 + "</g>" for n in range(7))


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ('<g id="a"><use href="#a"/></g><use href="#a"/>', "refers to itself"),
        (USES + '<g id="u0"><rect/></g><use href="#u7"/>', "would draw more than"),
        ('<path d="M0 0' + "l1 1" * 500_000 + '"/>', "would draw more than"),
        ("<style>g{" + "fill:red;" * 2000 + "}</style>" + "<g/>" * 9000, "too large for its elements"),
        ("<text>" + "a" * 30_000 + "</text>", "characters of text"),
        ("<filter>" + "<feOffset/>" * 300 + "</filter>", "filter steps"),
        ('<image href="data:image/png;base64,AAAA" width="3" height="3"/>' * 30, "pictures in it"),
    ],
)
def test_what_would_cost_too_much_is_counted_before_it_is_drawn(body, said):
    with pytest.raises(SvgError, match=said):
        check_svg((HEAD + body + "</svg>").encode())
