#!/usr/bin/python3
"""Makes the manuals that the tests read, in layouts that people use, with what is to be found in them (expected.json).

Needs reportlab, LibreOffice and Chromium. The files are kept, so that the tests need none of these:
    ./make.py
"""
import json
import os
import subprocess
import tempfile

from reportlab.lib.colors import CMYKColor, HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.pdfgen import canvas

HERE = os.path.dirname(os.path.abspath(__file__))
WHITE, INK = HexColor("#FFFFFF"), HexColor("#1A1A1A")

# name, hex, build on coated paper, ink
COLORS = [
    ("Deep Sound", "0E3A53", (99, 55, 22, 63), "QN-0453"),
    ("Buoy", "E2572B", (0, 78, 94, 5), "QN-0076"),
    ("Lamp", "F2B632", (5, 31, 89, 0), "QN-0155"),
    ("Saltmarsh", "4E7D5B", (74, 31, 73, 18), "QN-0324"),
    ("Heather Cliff", "7A4E7E", (51, 75, 9, 25), "QN-0547"),
    ("Ice Ramp", "8FC1D4", (49, 12, 15, 0), "QN-0413"),
    ("Fog", "C9D1D3", (26, 14, 17, 0), "QN-0619"),
    ("Slate Quay", "3B444B", (82, 65, 55, 46), "QN-0423"),
]
PROSE = (
    "The colors of the ferries were chosen in 2019 with the harbor masters. They are used on hulls,",
    "timetables and tickets alike. Ask the office at 12 Pier Road before you change one of them;",
    "the telephone is 555 014 220, on weekdays from 9 to 17. Version 3, of 14 May 2026.",
)
expected = {}


def rgb(hex_):
    return tuple(int(hex_[i : i + 2], 16) for i in (0, 2, 4))


class Color:
    """One color as a manual says it; what is not said is None."""

    def __init__(self, of, page, **wrong):
        self.name, self.hex, self.cmyk, self.ink = of
        self.page, self.rgb = page, rgb(self.hex)
        self.painted = self.hex
        self.wrong = sorted(wrong)
        for key, value in wrong.items():
            setattr(self, key, value)

    def said(self, *kinds):
        out = {"name": self.name, "page": self.page, "disagree": self.wrong}
        if "hex" in kinds:
            out["hex"] = "#" + self.hex
        if "rgb" in kinds:
            out["rgb"] = " ".join(map(str, self.rgb))
        if "cmyk" in kinds:
            out["cmyk"] = " ".join(map(str, self.cmyk))
        if "ink" in kinds:
            out["spot"] = self.ink
        return out


def expect(file, colors, *kinds):
    expected[file] = [c.said(*kinds) for c in colors]


def prose(c, title, width=595):
    c.setFillColor(INK)
    c.setFont("Helvetica-Bold", 22)
    c.drawString(60, c._pagesize[1] - 90, title)
    c.setFont("Helvetica", 10)
    for i, line in enumerate(PROSE):
        c.drawString(60, c._pagesize[1] - 130 - 14 * i, line)
    c.showPage()


def cards():
    """Ten pages; a swatch with the name and a line for each kind of value under it, two in a row."""
    file = "cards.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=A4, invariant=1)
    colors = []
    prose(c, "Odelwick Ferries, how we look")
    prose(c, "Our name")
    prose(c, "Our mark")
    for page, part in ((4, COLORS[:4]), (5, COLORS[4:])):
        c.setFillColor(INK)
        c.setFont("Helvetica-Bold", 18)
        c.drawString(50, 780, "Our colors" if page == 4 else "More colors")
        for i, of in enumerate(part):
            x, y = 50 + i % 2 * 250, 640 - i // 2 * 210
            wrong = {}
            if of[0] == "Buoy":
                wrong["rgb"] = (226, 78, 43)
            if of[0] == "Fog":
                wrong["painted"] = "D9D1C3"
            if of[0] == "Heather Cliff":
                wrong["ink"] = "QN-0155"
            color = Color(of, page, **wrong)
            colors.append(color)
            c.setFillColor(HexColor("#" + color.painted))
            c.rect(x, y, 220, 90, fill=1, stroke=0)
            c.setFillColor(INK)
            c.setFont("Helvetica-Bold", 10)
            c.drawString(x, y - 14, color.name)
            c.setFont("Helvetica", 9)
            lines = ("HEX " + color.hex, "RGB %d/%d/%d" % color.rgb, "CMYK %d/%d/%d/%d" % color.cmyk, "Ink " + color.ink)
            for j, line in enumerate(lines):
                c.drawString(x, y - 27 - j * 12, line)
        c.setFont("Helvetica", 8)
        c.drawString(50, 40, "Odelwick Ferries   %d" % page)
        c.showPage()
    for title in ("Type", "Pictures", "Hulls", "Tickets", "Whom to ask"):
        prose(c, title)
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk", "ink")


def rows():
    """A swatch to the left, and labels and values in columns of their own beside it; a page each three colors."""
    file = "rows.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=A4, invariant=1)
    colors = []
    for page, part in ((1, COLORS[:3]), (2, COLORS[3:6])):
        c.setFillColor(INK)
        c.setFont("Helvetica-Bold", 20)
        c.drawString(60, 780, "Main colors" if page == 1 else "Further colors")
        for i, of in enumerate(part):
            y = 700 - i * 200
            color = Color(of, page, **({"cmyk": (0, 78, 9, 5)} if of[0] == "Buoy" else {}))
            colors.append(color)
            c.setFillColor(HexColor("#" + color.hex))
            c.circle(120, y - 50, 55, fill=1, stroke=0)
            c.setFillColor(INK)
            c.setFont("Helvetica-Bold", 14)
            c.drawString(220, y, color.name)
            c.setFont("Helvetica-Oblique", 9)
            c.drawString(220, y - 15, "For hulls and headings, where there is room.")
            c.setFont("Helvetica", 10)
            for j, (label, value) in enumerate((("Web", "#" + color.hex.lower()), ("RGB", "%d, %d, %d" % color.rgb), ("CMYK", "C%d M%d Y%d K%d" % color.cmyk))):
                c.drawString(220, y - 34 - j * 15, label)
                c.drawString(300, y - 34 - j * 15, value)
        c.showPage()
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk")


def inside():
    """Stripes over the whole page with their values in them, painted in ink on paper; letters before numbers; a name that comes twice."""
    file = "inside.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=landscape(A4), invariant=1)
    colors = []
    for page, part in ((1, COLORS[:4]), (2, [COLORS[4], COLORS[1], COLORS[5], COLORS[6]])):
        for i, of in enumerate(part):
            color = Color(of, page)
            if page == 2 and of[0] == "Buoy":
                color.hex, color.rgb, color.cmyk = "D9482B", rgb("D9482B"), (0, 85, 93, 9)
                next(k for k in colors if k.name == "Buoy").wrong.append("page")
            else:
                colors.append(color)
            x = i * 210.5
            c.setFillColor(CMYKColor(*(v / 100 for v in color.cmyk)))
            c.rect(x, 0, 210.5, 595, fill=1, stroke=0)
            c.setFillColor(INK if of[0] in ("Lamp", "Ice Ramp", "Fog") else WHITE)
            c.setFont("Helvetica-Bold", 16)
            c.drawString(x + 18, 200, color.name)
            c.setFont("Helvetica", 10)
            lines = ("#" + color.hex, "R %d  G %d  B %d" % color.rgb, "C %d  M %d  Y %d  K %d" % color.cmyk)
            for j, line in enumerate(lines):
                c.drawString(x + 18, 178 - j * 15, line)
        c.showPage()
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk")


def split():
    """A number a line under its letter, four colors side by side, the swatch below; another kind of value beside it."""
    file = "split.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=landscape(A4), invariant=1)
    colors = []
    c.setFillColor(INK)
    c.setFont("Helvetica-Bold", 24)
    c.drawString(50, 530, "Color")
    for i, of in enumerate(COLORS[:4]):
        color = Color(of, 1, **({"painted": "E2C732"} if of[0] == "Lamp" else {}))
        colors.append(color)
        x = 50 + i * 190
        c.setFillColor(INK)
        c.setFont("Helvetica-Bold", 12)
        c.drawString(x, 470, color.name)
        c.setFont("Helvetica", 9)
        for j, (letter, value) in enumerate(zip("RGB", color.rgb)):
            c.drawString(x, 450 - j * 12, letter)
            c.drawString(x + 14, 450 - j * 12, str(value))
        for j, (letter, value) in enumerate(zip("CMYK", color.cmyk)):
            c.drawString(x + 70, 450 - j * 12, letter)
            c.drawString(x + 84, 450 - j * 12, str(value))
        c.drawString(x, 396, "#" + color.hex)
        c.setFillColor(HexColor("#" + color.painted))
        c.roundRect(x, 240, 160, 140, 8, fill=1, stroke=0)
    c.showPage()
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk")


def subtitles():
    """A line under each name that is the same for all, percent signs, colons; tints of the color between it and its values."""
    file = "subtitles.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=A4, invariant=1)
    c.setFillColor(INK)
    c.setFont("Helvetica-Bold", 24)
    c.drawString(50, 780, "Our palette")
    colors = []
    for i, of in enumerate(COLORS[:6]):
        color = Color(of, 1)
        colors.append(color)
        x, y = 50 + i % 3 * 170, 700 - i // 3 * 280
        c.setFillColor(INK)
        c.setFont("Helvetica-Bold", 11)
        c.drawString(x, y, color.name)
        c.setFont("Helvetica", 9)
        c.drawString(x, y - 13, "Primary colour")
        c.setFillColor(HexColor("#" + color.hex))
        c.rect(x, y - 105, 150, 80, fill=1, stroke=0)
        for j, percent in enumerate((75, 50, 25)):
            c.setFillColorRGB(*(int(255 - (255 - v) * percent / 100) / 255 for v in color.rgb))
            c.rect(x + j * 50, y - 125, 50, 20, fill=1, stroke=0)
            c.setFillColor(INK)
            c.setFont("Helvetica", 7)
            c.drawString(x + j * 50 + 4, y - 121, "%d %%" % percent)
        c.setFont("Helvetica", 9)
        for j, line in enumerate(("R: %d  G: %d  B: %d" % color.rgb, "C: %d%%  M: %d%%  Y: %d%%  K: %d%%" % color.cmyk, "Web: #" + color.hex)):
            c.drawString(x, y - 140 - j * 12, line)
    c.showPage()
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk")


def papers():
    """Numbers with dashes between them, a build for each of two papers; a landscape page that the file keeps upright and turns."""
    file = "papers.pdf"
    c = canvas.Canvas(os.path.join(HERE, file), pagesize=landscape(A4), invariant=1)
    c.setPageRotation(90)
    c.translate(595, 0)
    c.rotate(90)
    c.setFillColor(INK)
    c.setFont("Helvetica-Bold", 18)
    c.drawString(50, 540, "Colours")
    colors = []
    for i, of in enumerate(COLORS[:6]):
        color = Color(of, 1)
        colors.append(color)
        x, y = 50 + i % 3 * 260, 420 - i // 3 * 220
        c.setFillColor(HexColor("#" + color.hex))
        c.rect(x, y, 230, 100, fill=1, stroke=0)
        c.setFillColor(INK)
        c.setFont("Helvetica-Bold", 10)
        c.drawString(x, y - 14, color.name.upper())
        c.setFont("Helvetica", 9)
        uncoated = tuple(max(0, v - 6) for v in color.cmyk)
        for j, line in enumerate(("Hexadecimal: " + color.hex, "sRGB: %d-%d-%d" % color.rgb, "CMYK coated: %d-%d-%d-%d" % color.cmyk, "CMYK uncoated: %d-%d-%d-%d" % uncoated)):
            c.drawString(x, y - 28 - j * 12, line)
        color.name = color.name.upper()
    c.showPage()
    c.save()
    expect(file, colors, "hex", "rgb", "cmyk")


STYLE = "body{font:10pt 'DejaVu Sans',sans-serif;color:#1a1a1a;-webkit-print-color-adjust:exact}"


def printed(file, html):
    """The print of a page, by Chromium."""
    with tempfile.TemporaryDirectory() as tmp:
        page = os.path.join(tmp, "page.html")
        with open(page, "w") as f:
            f.write(html)
        subprocess.run(["chromium", "--headless", "--no-sandbox", "--disable-gpu", "--no-pdf-header-footer", "--print-to-pdf=" + os.path.join(HERE, file), page],
                       check=True, capture_output=True, timeout=120)


def written(file, html):
    """The PDF of a text document, by LibreOffice."""
    with tempfile.TemporaryDirectory() as tmp:
        page = os.path.join(tmp, file.replace(".pdf", ".html"))
        with open(page, "w") as f:
            f.write(html)
        subprocess.run(["soffice", "-env:UserInstallation=file://" + tmp + "/profile", "--headless", "--infilter=HTML (StarWriter)", "--convert-to", "pdf:writer_pdf_Export", "--outdir", HERE, page],
                       check=True, capture_output=True, timeout=180)


def table():
    """A table with a head, a swatch in a cell of each row, and a column that says what each is for."""
    file = "table.pdf"
    colors = [Color(of, 1, **({"rgb": (78, 125, 19)} if of[0] == "Saltmarsh" else {})) for of in COLORS]
    row = "".join("<tr><td bgcolor='#%s'>&nbsp;</td><td>%s</td><td>%s</td><td>#%s</td><td>%d %d %d</td><td>%d %d %d %d</td><td>%s</td></tr>"
                  % (c.painted, c.name, use, c.hex, *c.rgb, *c.cmyk, c.ink)
                  for c, use in zip(colors, ("hulls", "calls to action", "data", "harbors", "winter", "tints", "rules", "text")))
    written(file, "<html><head><meta charset='utf-8'></head><body><h1>Colors</h1><p>" + " ".join(PROSE) + "</p>"
            "<table border='1' cellpadding='4'><tr><th width='60'></th><th>Color</th><th>Use</th><th>Hex</th><th>RGB</th><th>CMYK</th><th>Spot ink</th></tr>" + row + "</table></body></html>")
    expect(file, colors, "hex", "rgb", "cmyk", "ink")


def running():
    """Lines of a text document, with the values behind the name; a sentence further down says another value for one of them."""
    file = "running.pdf"
    colors = [Color(of, 1) for of in COLORS[:6]]
    colors[1].wrong = ["page"]
    lines = "".join("<li><b>%s</b>: #%s, RGB %d %d %d, CMYK %d %d %d %d</li>" % (c.name, c.hex, *c.rgb, *c.cmyk) for c in colors)
    written(file, "<html><head><meta charset='utf-8'></head><body><h1>Style guide</h1><p>" + " ".join(PROSE) + "</p><h2>Palette</h2><ul>" + lines +
            "</ul><p>On slides, use Buoy (#E2562B) for what is to be done.</p></body></html>")
    expect(file, colors, "hex", "rgb", "cmyk")


def transposed():
    """A column a color, the kinds of value to the left; the swatches over the names."""
    file = "transposed.pdf"
    colors = [Color(of, 1, **({"painted": "7A4E9E"} if of[0] == "Heather Cliff" else {})) for of in COLORS[3:8]]

    def line(head, cells):
        return "<tr><th>%s</th>%s</tr>" % (head, "".join(cells))
    cell = "<td>%s</td>"
    printed(file, "<meta charset='utf-8'><style>@page{size:A4 landscape;margin:18mm}" + STYLE + "table{border-collapse:collapse}td,th{text-align:left;padding:5pt 10pt}.s{height:60pt;width:110pt}</style>"
            "<h1>Secondary palette</h1><table>" + line("", ("<td class=s style='background:#%s'></td>" % c.painted for c in colors)) + line("", ("<td><b>%s</b></td>" % c.name for c in colors)) +
            line("Hex", (cell % ("#" + c.hex) for c in colors)) + line("RGB", (cell % ("%d / %d / %d" % c.rgb) for c in colors)) +
            line("CMYK", (cell % ("%d / %d / %d / %d" % c.cmyk) for c in colors)) + line("Spot", (cell % c.ink for c in colors)) + "</table>")
    expect(file, colors, "hex", "rgb", "cmyk", "ink")


def grid():
    """A grid of cards, the label over each value; round swatches; four in a row on a slide."""
    file = "grid.pdf"
    colors = [Color(of, 1) for of in COLORS]
    card = "".join("<div class=c><i style='background:#%s'></i><h3>%s</h3><dl><dt>HEX<dd>#%s<dt>RGB<dd>%d %d %d<dt>CMYK<dd>%d %d %d %d</dl></div>" % (c.painted, c.name, c.hex, *c.rgb, *c.cmyk) for c in colors)
    printed(file, "<meta charset='utf-8'><style>@page{size:13.33in 7.5in;margin:14mm}" + STYLE + ".g{display:grid;grid-template-columns:repeat(4,1fr);gap:8mm}.c{break-inside:avoid}i{display:block;width:46pt;height:46pt;border-radius:50%}"
            "h1{margin:0 0 5mm}h3{margin:4pt 0 2pt;font-size:11pt}dl{margin:0}dt{font-size:7pt;color:#555}dd{margin:0 0 2pt}</style><h1>Palette</h1><div class=g>" + card + "</div>")
    expect(file, colors, "hex", "rgb", "cmyk")


def document():
    """A text document (python-docx): a paragraph with the name, one with the values with tabs; a table of further colors without a head."""
    import docx
    from docx.oxml import OxmlElement
    from docx.oxml.ns import qn
    from docx.shared import Pt

    d = docx.Document()
    d.add_heading("How we look", 1)
    d.add_paragraph(" ".join(PROSE))
    colors = [Color(of, 0, **({"rgb": (226, 87, 34)} if of[0] == "Buoy" else {})) for of in COLORS]
    for c in colors[:4]:
        p = d.add_paragraph()
        p.add_run(c.name).bold = True
        p.add_run("\n")
        swatch = p.add_run("          ")
        shade = OxmlElement("w:shd")
        shade.set(qn("w:val"), "clear")
        shade.set(qn("w:fill"), c.painted)
        swatch._r.get_or_add_rPr().append(shade)
        p.add_run("\nHex:\t#%s\nRGB:\t%d %d %d\nCMYK:\t%d %d %d %d" % (c.hex, *c.rgb, *c.cmyk))
    d.add_heading("Further colors", 2)
    t = d.add_table(rows=0, cols=4)
    for c in colors[4:]:
        cells = t.add_row().cells
        shade = OxmlElement("w:shd")
        shade.set(qn("w:val"), "clear")
        shade.set(qn("w:fill"), c.painted)
        cells[0]._tc.get_or_add_tcPr().append(shade)
        cells[1].text, cells[2].text, cells[3].text = c.name, "#" + c.hex, "RGB %d %d %d, CMYK %d %d %d %d" % (*c.rgb, *c.cmyk)
    d.core_properties.created = d.core_properties.modified = __import__("datetime").datetime(2026, 1, 1)
    d.save(os.path.join(HERE, "document.docx"))
    expect("document.docx", colors, "hex", "rgb", "cmyk")


def web():
    """A page of a web site: cards in an article, then a table; one value differs between both."""
    colors = [Color(of, 0) for of in COLORS[:5]]
    colors[2].wrong = ["page"]
    cards = "".join('<article><div class="swatch" style="background:#%s"></div><h3>%s</h3><ul><li>HEX <code>#%s</code></li><li>RGB <code>%d, %d, %d</code></li><li>CMYK <code>%d, %d, %d, %d</code></li></ul></article>\n'
                    % (c.hex, c.name, c.hex, *c.rgb, *c.cmyk) for c in colors)
    other = dict((c.name, c.hex) for c in colors)
    other["Lamp"] = "F2C632"
    rows = "".join("<tr><td style='background-color:#%s'></td><td>%s</td><td>#%s</td></tr>" % (h, n, h) for n, h in other.items())
    with open(os.path.join(HERE, "web.html"), "w") as f:
        f.write("<!doctype html><meta charset=utf-8><title>Brand</title><style>.swatch{height:80px}</style><body><h1>Colors</h1><p>" + " ".join(PROSE) + "</p>" + cards +
                "<h2>On screens</h2><table><thead><tr><th></th><th>Name</th><th>Hex</th></tr></thead><tbody>" + rows + "</tbody></table></body>\n")
    expect("web.html", colors, "hex", "rgb", "cmyk")


def slides():
    """A presentation (odfpy, and by LibreOffice in the other format): shapes with text under them, three on a slide."""
    from odf.draw import Frame, Page, Rect, TextBox
    from odf.opendocument import OpenDocumentPresentation
    from odf.style import GraphicProperties, MasterPage, PageLayout, PageLayoutProperties, ParagraphProperties, Style, TextProperties
    from odf.text import P

    d = OpenDocumentPresentation()
    layout = PageLayout(name="wide")
    layout.addElement(PageLayoutProperties(pagewidth="28cm", pageheight="15.75cm"))
    d.automaticstyles.addElement(layout)
    master = MasterPage(name="plain", pagelayoutname=layout)
    d.masterstyles.addElement(master)
    text = Style(name="small", family="paragraph")
    text.addElement(TextProperties(fontsize="12pt"))
    d.automaticstyles.addElement(text)
    plain = Style(name="frame", family="graphic")
    plain.addElement(GraphicProperties(fill="none", stroke="none"))
    d.automaticstyles.addElement(plain)
    colors = [Color(of, 1 + i // 3, **({"painted": "4E7D8B"} if of[0] == "Saltmarsh" else {})) for i, of in enumerate(COLORS[:6])]
    for number in (1, 2):
        page = Page(name="p%d" % number, masterpagename=master)
        d.presentation.addElement(page)
        for i, c in enumerate(colors[3 * number - 3 : 3 * number]):
            x = 1 + i * 9
            fill = Style(name="fill" + c.hex, family="graphic")
            fill.addElement(GraphicProperties(fill="solid", fillcolor="#" + c.painted, stroke="none"))
            d.automaticstyles.addElement(fill)
            page.addElement(Rect(stylename=fill, x="%gcm" % x, y="2cm", width="7cm", height="4cm"))
            frame = Frame(stylename=plain, x="%gcm" % x, y="6.3cm", width="7.5cm", height="5cm")
            box = TextBox()
            for line in (c.name, "#" + c.hex, "RGB %d %d %d" % c.rgb, "CMYK %d %d %d %d" % c.cmyk):
                box.addElement(P(stylename=text, text=line))
            frame.addElement(box)
            page.addElement(frame)
    d.save(os.path.join(HERE, "slides.odp"))
    with tempfile.TemporaryDirectory() as tmp:
        subprocess.run(["soffice", "-env:UserInstallation=file://" + tmp + "/profile", "--headless", "--convert-to", "pptx", "--outdir", HERE, os.path.join(HERE, "slides.odp")],
                       check=True, capture_output=True, timeout=180)
    for file in ("slides.odp", "slides.pptx"):
        expect(file, colors, "hex", "rgb", "cmyk")


for make in (document, web, slides, cards, rows, inside, split, subtitles, papers, table, running, transposed, grid):
    make()
with open(os.path.join(HERE, "expected.json"), "w") as f:
    json.dump(expected, f, indent=1)
    f.write("\n")
