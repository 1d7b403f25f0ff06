"""Words of a job are shown as they stand: no label, tip or question reads them as markup."""

import json
import unittest

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QTableWidget, QWidget

from lesna.desktop.widgets.words import Words, tip
from lesna.model.job import Job
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.support import HINGE

#: what a rich text would look for on the disk
MARKUP = "<img src='/dev/zero'><b>Bold</b> & <script>"


class PlainWords(WindowTest):
    def marked_up(self) -> Job:
        data = json.loads(HINGE.read_text())
        data["title"], data["notes"] = MARKUP, MARKUP
        for number, cut in enumerate(data["cuts"]):
            cut["name"] = f"{MARKUP} {number}"
            cut.pop("program", None)
        tool = data["cuts"][1]["tool"]
        tool["name"] = MARKUP
        return Job.read(data)

    def test_every_label_and_tip(self) -> None:
        self.session.open(self.marked_up(), None)
        wait_for(lambda: self.running.runner.is_idle)
        for step in range(4):
            self.bench.show_step(step)
            self.session.select(1)
            APP.processEvents()
        self.bench.every_field()
        self.session.working_asked.emit("fz")
        wait_for(lambda: self.running.runner.is_idle)
        everything = [widget for top in APP.topLevelWidgets() for widget in (top, *top.findChildren(QWidget))]
        labels = [widget for widget in everything if isinstance(widget, QLabel)]
        self.assertGreater(len(labels), 60)
        for label in labels:
            with self.subTest(label=type(label).__name__, text=label.text()[:50]):
                if label.textFormat() != Qt.TextFormat.PlainText:
                    # those that are marked up by Lesna hold nobody's words unescaped
                    self.assertEqual(label.textFormat(), Qt.TextFormat.RichText)
                    self.assertNotIn("<img", label.text())
                else:
                    # what Lesna marks up itself is not shown as its source
                    self.assertNotRegex(label.text(), "style=|</span>|&nbsp;")
        tips = [widget.toolTip() for widget in everything]
        tips += [str(combo.itemData(row, Qt.ItemDataRole.ToolTipRole) or "") for combo in everything if isinstance(combo, QComboBox)
                 for row in range(combo.count())]  # fmt: skip
        for table in everything:
            if isinstance(table, QTableWidget):
                for row in range(table.rowCount()):
                    items = [table.item(row, column) for column in range(table.columnCount())]
                    tips += [item.toolTip() for item in items if item is not None]
        self.assertFalse([text for text in tips if "<img" in text])

    def test_a_tip_shows_what_it_is_given(self) -> None:
        self.assertEqual(tip("plain"), "plain")
        self.assertEqual(tip("a < b\nc"), "<qt>a &lt; b<br>c</qt>")
        self.assertEqual(Words("<b>x</b>").textFormat(), Qt.TextFormat.PlainText)


if __name__ == "__main__":
    unittest.main()
