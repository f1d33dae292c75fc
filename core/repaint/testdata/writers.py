"""Files as other programs write them, with a color of its own at every place that can have one, and what those programs read out of such
files.

    writers.py write DIR     writes the files, and DIR/planted.json: {file: {"RRGGBB": "what it is at"}}
    writers.py read FILE...  prints {file: ["RRGGBB", ...]}, the colors that a program finds in it, in its order
"""

import json
import os
import sys

import docx
import openpyxl
import xlsxwriter
from docx.oxml import parse_xml
from docx.oxml.ns import nsdecls
from docx.shared import RGBColor
from odf import draw
from odf.opendocument import OpenDocumentSpreadsheet, OpenDocumentText, load
from odf.style import (GraphicProperties, MasterPage, PageLayout, PageLayoutProperties, ParagraphProperties, Style, TableCellProperties,
                       TextProperties)
from odf.table import Table, TableCell, TableRow
from odf.text import P, Span
from openpyxl.chart import BarChart, LineChart, Reference
from openpyxl.chart.marker import DataPoint, Marker
from openpyxl.chart.shapes import GraphicalProperties
from openpyxl.drawing.line import LineProperties
from openpyxl.formatting.rule import CellIsRule, ColorScaleRule, DataBarRule
from openpyxl.styles import Border, Font, GradientFill, NamedStyle, PatternFill, Side
from reportlab.lib.colors import HexColor
from reportlab.pdfgen import canvas

planted = {}


def planter(file):
    """A function that gives the next color of a file, and notes what it is for."""
    number = len(planted) + 1
    own = planted[file] = {}

    def plant(what):
        n = len(own) + 1
        value = "%02X%02X%02X" % ((number * 7 + n * 37) % 200 + 21, (number + n * 91) % 200 + 31, (n * 53 + number * 3) % 180 + 41)
        assert value not in own, "two places have one color"
        own[value] = what
        return value

    return plant


def workbook(path, c):
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Fares"
    sheet["A1"] = "font"
    sheet["A1"].font = Font(color=c("font"))
    sheet["A2"] = "solid"
    sheet["A2"].fill = PatternFill("solid", fgColor=c("solid fill"))
    sheet["A3"] = "pattern"
    sheet["A3"].fill = PatternFill("lightGrid", fgColor=c("pattern, in front"), bgColor=c("pattern, behind"))
    sheet["A4"] = "gradient"
    sheet["A4"].fill = GradientFill(stop=(c("gradient, first"), c("gradient, last")))
    sheet["A5"] = "border"
    sheet["A5"].border = Border(left=Side("thin", color=c("left")), right=Side("thin", color=c("right")), top=Side("thin", color=c("top")),
                                bottom=Side("thin", color=c("bottom")), diagonal=Side("thin", color=c("diagonal")), diagonalUp=True)
    for row in range(20, 30):
        sheet.cell(row, 1, row)
    sheet.conditional_formatting.add("A20:A29", ColorScaleRule(start_type="min", start_color=c("scale, low"), mid_type="percentile", mid_value=50,
                                                               mid_color=c("scale, middle"), end_type="max", end_color=c("scale, high")))
    sheet.conditional_formatting.add("A20:A29", DataBarRule("min", 0, "max", 100, color=c("bar of a cell")))
    sheet.conditional_formatting.add("A20:A29", CellIsRule(operator="lessThan", formula=["3"], font=Font(color=c("condition, font")),
                                                           fill=PatternFill(bgColor=c("condition, fill"))))
    sheet.sheet_properties.tabColor = c("tab")
    sheet.oddHeader.center.text = "Fares"
    sheet.oddHeader.center.color = c("header")
    chart = BarChart()
    chart.add_data(Reference(sheet, min_col=1, min_row=20, max_row=29))
    series = chart.series[0]
    series.graphicalProperties.solidFill = c("series")
    series.graphicalProperties.line.solidFill = c("series, line")
    point = DataPoint(idx=2)
    point.graphicalProperties.solidFill = c("data point")
    series.dPt.append(point)
    chart.plot_area.graphicalProperties = GraphicalProperties(solidFill=c("plot area"))
    chart.y_axis.majorGridlines.spPr = GraphicalProperties(ln=LineProperties(solidFill=c("grid line")))
    sheet.add_chart(chart, "E5")
    lines = LineChart()
    lines.add_data(Reference(sheet, min_col=1, min_row=20, max_row=29))
    lines.series[0].marker = Marker("circle", spPr=GraphicalProperties(solidFill=c("marker")))
    sheet.add_chart(lines, "E25")
    named = NamedStyle(name="Call")
    named.font = Font(color=c("named style, font"))
    named.fill = PatternFill("solid", fgColor=c("named style, fill"))
    book.add_named_style(named)
    sheet["D1"].style = "Call"
    sheet["D1"] = "named"
    sheet.column_dimensions["H"].fill = PatternFill("solid", fgColor=c("column"))
    sheet.row_dimensions[40].fill = PatternFill("solid", fgColor=c("row"))
    second = book.create_sheet("Return")
    second["A1"] = "font"
    second["A1"].font = Font(color=c("font of another sheet"))
    book.save(path)


def formats(path, c):
    def h(what):
        return "#" + c(what)

    book = xlsxwriter.Workbook(path)
    sheet = book.add_worksheet("One")
    sheet.write(0, 0, "a", book.add_format({"font_color": h("font"), "bg_color": h("fill"), "border": 1, "border_color": h("border")}))
    sheet.write(1, 0, "a", book.add_format({"pattern": 4, "fg_color": h("pattern, in front"), "bg_color": h("pattern, behind")}))
    sheet.write_rich_string(2, 0, "x", book.add_format({"font_color": h("part of a text")}), "y")
    sheet.write_column("A10", [1, 5, 3, 4])
    sheet.conditional_format("A10:A13", {"type": "data_bar", "bar_color": h("bar"), "data_bar_2010": True, "bar_negative_color": h("bar under zero"),
                                         "bar_border_color": h("edge of a bar"), "bar_axis_color": h("axis of a bar")})
    sheet.set_tab_color(h("tab"))
    sheet.set_column("J:K", None, book.add_format({"bg_color": h("columns")}))
    chart = book.add_chart({"type": "line"})
    chart.add_series({"values": "=One!$A$10:$A$13", "line": {"color": h("line")}, "marker": {"type": "circle", "fill": {"color": h("marker")},
                      "border": {"color": h("edge of a marker")}}, "data_labels": {"value": True, "font": {"color": h("label")}},
                      "trendline": {"type": "linear", "line": {"color": h("trend")}}, "y_error_bars": {"type": "standard_error", "line": {"color": h("error bar")}}})
    chart.set_title({"name": "T", "name_font": {"color": h("title")}})
    chart.set_x_axis({"num_font": {"color": h("axis, text")}, "line": {"color": h("axis, line")}, "major_gridlines": {"visible": True, "line": {"color": h("grid line")}}})
    chart.set_legend({"font": {"color": h("legend")}, "fill": {"color": h("legend, fill")}})
    chart.set_chartarea({"gradient": {"colors": [h("gradient 1"), h("gradient 2"), h("gradient 3")]}})
    chart.set_plotarea({"pattern": {"pattern": "percent_20", "fg_color": h("plot area, in front"), "bg_color": h("plot area, behind")}})
    sheet.insert_chart("D2", chart)
    sheet.insert_textbox("D20", "hello", {"fill": {"color": h("box")}, "line": {"color": h("box, line")}, "font": {"color": h("box, text")}})
    sheet.add_sparkline("F1", {"range": "One!A10:A13", "series_color": h("sparkline"), "markers": True, "markers_color": h("sparkline, marker"),
                               "high_point": True, "high_color": h("sparkline, high"), "low_point": True, "low_color": h("sparkline, low")})
    sheet.write_comment("A1", "note", {"color": h("note")})
    pie = book.add_chart({"type": "pie"})
    pie.add_series({"values": "=One!$A$10:$A$13", "points": [{"fill": {"color": h("slice 1")}}, {"fill": {"color": h("slice 2")}}, None, {"border": {"color": h("edge of a slice")}}]})
    alone = book.add_chartsheet("Alone")
    alone.set_chart(pie)
    alone.set_tab_color(h("tab of a chart"))
    book.close()


def document(path, c):
    doc = docx.Document()

    def put(parent, xml):
        parent.append(parse_xml(xml.replace(" ", " " + nsdecls("w") + " ", 1)))

    para = doc.add_paragraph("Sail ")
    para.add_run("colored").font.color.rgb = RGBColor.from_string(c("run"))
    doc.styles["Heading 1"].font.color.rgb = RGBColor.from_string(c("style"))
    doc.add_heading("Notice", 1)
    for text, xml in (
        ("shaded", '<w:shd w:val="clear" w:color="auto" w:fill="%s"/>' % c("shading of a run")),
        ("pattern", '<w:shd w:val="pct25" w:color="%s" w:fill="%s"/>' % (c("pattern, in front"), c("pattern, behind"))),
        ("underlined", '<w:u w:val="single" w:color="%s"/>' % c("underline")),
        ("bordered", '<w:bdr w:val="single" w:color="%s"/>' % c("border of a run")),
    ):
        put(para.add_run(text)._r.get_or_add_rPr(), xml)
    edged = doc.add_paragraph("edged")._p.get_or_add_pPr()
    put(edged, '<w:pBdr ><w:top w:val="single" w:color="%s"/></w:pBdr>' % c("border of a paragraph"))
    put(edged, '<w:shd w:val="clear" w:color="auto" w:fill="%s"/>' % c("shading of a paragraph"))
    table = doc.add_table(2, 2)
    put(table.cell(0, 0)._tc.get_or_add_tcPr(), '<w:shd w:val="clear" w:fill="%s"/>' % c("cell"))
    put(table.cell(1, 1)._tc.get_or_add_tcPr(), '<w:tcBorders ><w:left w:val="single" w:color="%s"/></w:tcBorders>' % c("border of a cell"))
    table.cell(0, 1).paragraphs[0].add_run("in a cell").font.color.rgb = RGBColor.from_string(c("run in a cell"))
    section = doc.sections[0]
    section.header.paragraphs[0].add_run("head").font.color.rgb = RGBColor.from_string(c("header"))
    section.footer.paragraphs[0].add_run("foot").font.color.rgb = RGBColor.from_string(c("footer"))
    doc.element.insert(0, parse_xml('<w:background %s w:color="%s"/>' % (nsdecls("w"), c("page"))))
    doc.save(path)


def text(path, c):
    doc = OpenDocumentText()
    style = Style(name="Brand", family="paragraph")
    style.addElement(TextProperties(color="#" + c("paragraph"), textunderlinestyle="solid", textunderlinecolor="#" + c("underline")))
    style.addElement(ParagraphProperties(backgroundcolor="#" + c("background"), border="0.5pt solid #" + c("border")))
    doc.styles.addElement(style)
    doc.text.addElement(P(stylename=style, text="Sail"))
    own = Style(name="T1", family="text")
    own.addElement(TextProperties(color="#" + c("run"), backgroundcolor="#" + c("background of a run")))
    doc.automaticstyles.addElement(own)
    para = P()
    para.addElement(Span(stylename=own, text="now"))
    doc.text.addElement(para)
    shape = Style(name="gr1", family="graphic")
    shape.addElement(GraphicProperties(fill="solid", fillcolor="#" + c("shape"), strokecolor="#" + c("line"), shadowcolor="#" + c("shadow"), shadow="visible"))
    doc.automaticstyles.addElement(shape)
    para = P()
    para.addElement(draw.Rect(width="2cm", height="2cm", stylename=shape))
    doc.text.addElement(para)
    layout = PageLayout(name="pl")
    layout.addElement(PageLayoutProperties(backgroundcolor="#" + c("page")))
    doc.automaticstyles.addElement(layout)
    doc.masterstyles.addElement(MasterPage(name="Standard", pagelayoutname=layout))
    doc.save(path)


def cells(path, c):
    doc = OpenDocumentSpreadsheet()
    style = Style(name="ce1", family="table-cell")
    style.addElement(TableCellProperties(backgroundcolor="#" + c("cell"), borderleft="1pt solid #" + c("border")))
    style.addElement(TextProperties(color="#" + c("text")))
    doc.automaticstyles.addElement(style)
    table, row, cell = Table(name="S"), TableRow(), TableCell(stylename=style)
    cell.addElement(P(text="v"))
    row.addElement(cell)
    table.addElement(row)
    doc.spreadsheet.addElement(table)
    doc.save(path)


def pages(path, c):
    def h(what):
        return HexColor("#" + c(what))

    page = canvas.Canvas(path)
    page.setFillColor(h("fill"))
    page.rect(50, 50, 100, 100, fill=1, stroke=0)
    page.setStrokeColor(h("line"))
    page.line(0, 0, 100, 100)
    page.setFillColor(h("text"))
    page.drawString(100, 500, "Sail")
    page.linearGradient(100, 600, 200, 700, (h("gradient, first"), h("gradient, last")))
    page.beginForm("own")
    page.setFillColor(h("form"))
    page.rect(0, 0, 10, 10, fill=1, stroke=0)
    page.endForm()
    page.doForm("own")
    page.beginForm("open")  # paints with what is set where it is shown
    page.rect(0, 0, 10, 10, fill=1, stroke=1)
    page.endForm()
    page.setFillColor(h("fill of a form"))
    page.setStrokeColor(h("line of a form"))
    page.doForm("open")
    page.acroForm.textfield(name="t", x=10, y=10, fillColor=h("field"), borderColor=h("border of a field"), textColor=h("text of a field"), forceBorder=True)
    page.linkURL("http://ferries.example", (10, 10, 50, 50), color=h("link"), thickness=2)
    page.showPage()
    page.setFillColor(h("another page"))
    page.circle(100, 100, 20, fill=1)
    page.showPage()
    page.save()


WRITERS = {"workbook.xlsx": workbook, "formats.xlsx": formats, "document.docx": document, "text.odt": text, "cells.ods": cells, "pages.pdf": pages}


def of_workbook(path):
    def rgb(color):
        return [color.rgb[-6:]] if color is not None and color.type == "rgb" else []

    for sheet in openpyxl.load_workbook(path).worksheets:
        yield from rgb(sheet.sheet_properties.tabColor)
        for row in sheet.iter_rows():
            for cell in row:
                yield from rgb(cell.font.color)
                fill = cell.fill
                for color in fill.stop if fill.tagname == "gradientFill" else (fill.fgColor, fill.bgColor):
                    yield from rgb(getattr(color, "color", color))
                for side in ("left", "right", "top", "bottom", "diagonal"):
                    side = getattr(cell.border, side)
                    yield from rgb(side.color if side else None)
        for area in sheet.conditional_formatting:
            for rule in area.rules:
                for color in (rule.colorScale.color if rule.colorScale else []) + ([rule.dataBar.color] if rule.dataBar else []):
                    yield from rgb(color)
                if rule.dxf and rule.dxf.font:
                    yield from rgb(rule.dxf.font.color)


def of_document(path):
    doc = docx.Document(path)
    elements = [doc.element, doc.styles.element, doc.sections[0].header._element, doc.sections[0].footer._element]
    for element in elements:
        for value in element.xpath("//w:color/@w:val | //@w:fill | //@w:color"):
            yield str(value)


def of_open_document(path):
    def walk(node):
        for value in (getattr(node, "attributes", None) or {}).values():
            for word in str(value).split():
                if word.startswith("#") and len(word) == 7:
                    yield word[1:]
        for child in getattr(node, "childNodes", []):
            yield from walk(child)

    doc = load(path)
    for part in (doc.styles, doc.automaticstyles, doc.masterstyles, doc.body):
        yield from walk(part)


READERS = {".xlsx": of_workbook, ".docx": of_document, ".odt": of_open_document, ".ods": of_open_document}

if __name__ == "__main__":
    if sys.argv[1] == "write":
        for name, write in WRITERS.items():
            write(os.path.join(sys.argv[2], name), planter(name))
        with open(os.path.join(sys.argv[2], "planted.json"), "w") as out:
            json.dump(planted, out)
    else:
        found = {}
        for path in sys.argv[2:]:
            read = READERS.get(os.path.splitext(path)[1])
            if read:
                found[path] = [color.upper() for color in read(path)]
        json.dump(found, sys.stdout)
