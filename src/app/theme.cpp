#include "app/theme.h"
#include "app/tabular_font.h"
#include "core/technique/technique.h"
#include <QPalette>
#include <map>

namespace mirolux::app {

static Theme current;
const Theme& theme() {
    return current;
}

static Theme make(bool dark) {
    Theme t;
    t.dark = dark;
    t.window = dark ? QColor(28, 28, 28) : QColor(212, 212, 212);
    t.panel = dark ? QColor(37, 37, 37) : QColor(226, 226, 226);
    t.field = dark ? QColor(47, 47, 47) : QColor(240, 240, 240);
    t.line = dark ? QColor(68, 68, 68) : QColor(180, 180, 180);
    t.text = dark ? QColor(226, 226, 226) : QColor(26, 26, 26);
    t.quiet = dark ? QColor(152, 152, 152) : QColor(88, 88, 88);
    t.lit = dark ? QColor(246, 242, 232) : QColor(34, 33, 31);
    t.ink = dark ? QColor(24, 24, 23) : QColor(246, 242, 232);
    t.a = dark ? QColor(92, 184, 206) : QColor(14, 110, 138);
    t.b = dark ? QColor(176, 148, 230) : QColor(104, 72, 176);
    t.alarm = dark ? QColor(240, 128, 106) : QColor(172, 42, 26);
    t.pictureSurround = dark ? QColor(22, 22, 22) : QColor(164, 164, 164);
    return t;
}

void use_theme(QApplication& app, bool dark) {
    current = make(dark);
    const Theme& t = current;
    app.setStyle("Fusion");
    QPalette p;
    p.setColor(QPalette::Window, t.window);
    p.setColor(QPalette::WindowText, t.text);
    p.setColor(QPalette::Base, t.field);
    p.setColor(QPalette::AlternateBase, t.panel);
    p.setColor(QPalette::Text, t.text);
    p.setColor(QPalette::Button, t.panel);
    p.setColor(QPalette::ButtonText, t.text);
    p.setColor(QPalette::BrightText, t.alarm);
    p.setColor(QPalette::Highlight, t.lit);
    p.setColor(QPalette::HighlightedText, t.ink);
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::ToolTipText, t.text);
    p.setColor(QPalette::PlaceholderText, t.quiet);
    p.setColor(QPalette::Link, t.a);
    p.setColor(QPalette::Disabled, QPalette::Text, t.line.lighter(dark ? 130 : 90));
    p.setColor(QPalette::Disabled, QPalette::ButtonText, t.line.lighter(dark ? 130 : 90));
    app.setPalette(p);
    const QString inter = add_tabular_inter();
    QFont font(inter.isEmpty() ? "DejaVu Sans" : inter);
    font.setPixelSize(12);
    app.setFont(font);
    auto c = [](const QColor& color) { return color.name(); };
    app.setStyleSheet(
        QString("QToolTip{color:%1;background:%2;border:1px solid %3;padding:3px}"
                "QFrame#panel{background:%2;border:none}"
                "QFrame#rule{background:%3}"
                "QLabel#quiet{color:%4}"
                "QLabel#title{font-size:13px;font-weight:600}"
                "QLabel#alarm{color:%5}"
                "QToolButton{border:none;border-radius:3px;padding:4px 9px}"
                "QToolButton::menu-indicator{image:none}"
                "QToolButton:hover{background:%3}"
                "QToolButton:checked{background:%7;color:%8;font-weight:600}"
                "QToolButton#framed{border:1px solid %4;padding:4px 12px}"
                "QToolButton:disabled{color:%3}"
                "QPushButton{background:%6;border:none;border-radius:3px;padding:4px 10px}"
                "QPushButton:hover{background:%3}"
                "QPushButton:pressed{background:%7;color:%8}"
                "QPushButton:disabled{color:%4}"
                "QComboBox{background:%6;border:none;border-radius:3px;padding:3px 8px}"
                "QComboBox::drop-down{border:none;width:0}"
                "QComboBox QAbstractItemView{background:%2;color:%1;border:1px solid %4;outline:none;"
                "selection-background-color:%7;selection-color:%8}"
                "QMenu{background:%2;color:%1;border:1px solid %4;padding:3px}QMenu::item{padding:4px 18px}"
                "QMenu::item:selected{background:%7;color:%8}QMenu::item:disabled{color:%4}"
                "QLineEdit,QPlainTextEdit,QListWidget,QTreeWidget,QTableView{background:%6;border:none;"
                "border-radius:3px;outline:none}"
                "QLineEdit{padding:3px 6px}QTextBrowser{background:%2;border:none}"
                "QListWidget::item:selected,QTreeWidget::item:selected,QTableView::item:selected{background:%7;"
                "color:%8}"
                "QHeaderView::section{background:%2;color:%4;border:none;padding:2px}"
                "QHeaderView::up-arrow,QHeaderView::down-arrow{width:0;height:0}"
                "QScrollBar:vertical{background:transparent;width:9px}QScrollBar::handle:vertical{background:%3;border-"
                "radius:4px;min-height:24px}"
                "QScrollBar:horizontal{background:transparent;height:9px}QScrollBar::handle:horizontal{background:%3;"
                "border-radius:4px;min-width:24px}"
                "QScrollBar::add-line,QScrollBar::sub-line{width:0;height:0}"
                "QCheckBox::indicator,QListView::indicator{width:11px;height:11px;border:1px solid "
                "%4;border-radius:2px;background:%6}"
                "QCheckBox::indicator:checked,QListView::indicator:checked{background:%4;border-color:%4}"
                "QSplitter::handle{background:%9}"
                "QStatusBar{font-size:11px;color:%4}QStatusBar::item{border:none}QStatusBar QLabel{color:%4}")
            .arg(c(t.text), c(t.panel), c(t.line), c(t.quiet), c(t.alarm), c(t.field), c(t.lit), c(t.ink),
                 c(t.window)));
}

QColor family_color(const std::string& family) {
    return QColor::fromRgb(family_color_of(family));
}

QFont sized(QFont font, int pixels, QFont::Weight weight) {
    font.setPixelSize(pixels);
    font.setWeight(weight);
    return font;
}

} // namespace mirolux::app
