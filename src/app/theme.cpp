#include "app/theme.h"
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
    t.window = dark ? QColor(38, 38, 39) : QColor(214, 214, 212);
    t.panel = dark ? QColor(47, 47, 48) : QColor(228, 228, 226);
    t.field = dark ? QColor(31, 31, 32) : QColor(245, 245, 243);
    t.line = dark ? QColor(66, 66, 68) : QColor(184, 184, 181);
    t.text = dark ? QColor(222, 221, 217) : QColor(30, 30, 30);
    t.quiet = dark ? QColor(154, 153, 149) : QColor(92, 92, 90);
    t.accent = dark ? QColor(232, 160, 66) : QColor(178, 98, 8);
    t.a = dark ? QColor(92, 184, 206) : QColor(14, 116, 144);
    t.b = dark ? QColor(170, 142, 224) : QColor(104, 72, 176);
    t.alarm = dark ? QColor(226, 96, 78) : QColor(178, 44, 28);
    t.pictureSurround = dark ? QColor(26, 26, 27) : QColor(168, 168, 166);
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
    p.setColor(QPalette::Highlight, t.accent);
    p.setColor(QPalette::HighlightedText, dark ? QColor(24, 20, 14) : QColor(255, 255, 255));
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::ToolTipText, t.text);
    p.setColor(QPalette::PlaceholderText, t.quiet);
    p.setColor(QPalette::Link, t.a);
    p.setColor(QPalette::Disabled, QPalette::Text, t.line.lighter(dark ? 130 : 90));
    p.setColor(QPalette::Disabled, QPalette::ButtonText, t.line.lighter(dark ? 130 : 90));
    app.setPalette(p);
    QFont font("DejaVu Sans");
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
                "QToolButton:checked{background:%6;border-bottom:2px solid %7}"
                "QPushButton{background:%6;border:1px solid %3;border-radius:3px;padding:3px 9px}"
                "QPushButton:hover{border-color:%4}"
                "QPushButton:pressed{background:%3}"
                "QPushButton:disabled{color:%4}"
                "QPushButton#primary{border-color:%7}"
                "QComboBox{background:%6;border:1px solid %3;border-radius:3px;padding:2px 6px}"
                "QLineEdit,QPlainTextEdit,QListWidget,QTreeWidget{background:%6;border:1px solid %3;border-radius:3px}"
                "QLineEdit{padding:2px 4px}"
                "QListWidget::item:selected,QTreeWidget::item:selected{background:%3;color:%1}"
                "QScrollBar:vertical{background:transparent;width:9px}QScrollBar::handle:vertical{background:%3;border-"
                "radius:4px;min-height:24px}"
                "QScrollBar:horizontal{background:transparent;height:9px}QScrollBar::handle:horizontal{background:%3;"
                "border-radius:4px;min-width:24px}"
                "QScrollBar::add-line,QScrollBar::sub-line{width:0;height:0}"
                "QCheckBox::indicator,QListView::indicator{width:11px;height:11px;border:1px solid "
                "%4;border-radius:2px;background:%6}"
                "QCheckBox::indicator:checked,QListView::indicator:checked{background:%7;border-color:%7}"
                "QStatusBar{font-size:11px;color:%4}QStatusBar::item{border:none}")
            .arg(c(t.text), c(t.panel), c(t.line), c(t.quiet), c(t.alarm), c(t.field), c(t.accent)));
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
