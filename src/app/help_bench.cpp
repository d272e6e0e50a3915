#include "app/help_bench.h"
#include "app/benches.h"
#include <QAbstractButton>
#include <QAbstractScrollArea>
#include <QAction>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QTextBlock>
#include <QTextBrowser>
#include <QTextCursor>
#include <QTextDocument>
#include <QToolButton>
#include <QVBoxLayout>
#include <set>

namespace mirolux::app {

void set_help_topic(QWidget* widget, const char* topic) {
    widget->setProperty("helpTopic", QString("topic:") + topic);
}

QString name_of(const QWidget* w) {
    if (!w->accessibleName().isEmpty()) return w->accessibleName();
    if (const auto* button = qobject_cast<const QAbstractButton*>(w); button && !button->text().isEmpty())
        return button->text().remove('&');
    if (const auto* label = qobject_cast<const QLabel*>(w); label && !label->text().isEmpty()) return label->text();
    if (const auto* line = qobject_cast<const QLineEdit*>(w); line && !line->placeholderText().isEmpty())
        return line->placeholderText();
    return w->objectName();
}

bool is_control(const QWidget* w) {
    if (w->objectName().startsWith("qt_") || qobject_cast<const QLabel*>(w) || qobject_cast<const QScrollArea*>(w))
        return false;
    // Parts of a control are the control: a line's clearing button, a table's corner, an editable list's line.
    for (const char* whole : {"QComboBox", "QLineEdit", "QTableView"})
        if (w->parentWidget() && w->parentWidget()->inherits(whole)) return false;
    return qobject_cast<const QAbstractButton*>(w) || qobject_cast<const QComboBox*>(w) ||
           qobject_cast<const QLineEdit*>(w) || (w->focusPolicy() & Qt::TabFocus);
}

HelpPage help_for(const QWidget* control) {
    HelpPage page;
    const HelpPage* topic = nullptr;
    for (const QWidget* w = control; w; w = w->parentWidget()) {
        if (const auto* label = qobject_cast<const QLabel*>(w); label && label->buddy()) w = label->buddy();
        if (page.body.empty())
            if (const HelpPage* own = find_help(w->objectName().toStdString())) page = *own;
        if (page.body.empty() && !w->toolTip().isEmpty()) {
            QTextDocument plain; // of a tooltip that is HTML
            plain.setHtml(w->toolTip());
            page = {"control:" + (w->objectName().isEmpty() ? name_of(w) : w->objectName()).toStdString(),
                    name_of(w).toStdString(),
                    (Qt::mightBeRichText(w->toolTip()) ? plain.toPlainText() : w->toolTip()).toStdString(), ""};
        }
        if (!topic)
            if (const QVariant named = w->property("helpTopic"); named.isValid())
                topic = find_help(named.toString().toStdString());
        if (w->isWindow()) break;
    }
    if (topic && page.body.empty()) return *topic;
    if (topic && find_help(page.id) == nullptr) page.body += "\n\n#### " + topic->title + "\n\n" + topic->body;
    return page;
}

HelpBench::HelpBench(QWidget* parent) : QWidget(parent) {
    auto* column = bench_column(this, tr("Help"), tr("F1 over anything tells what it is; or find it by words."));
    query_ = new QLineEdit(this);
    query_->setObjectName("find help");
    query_->setAccessibleName(tr("Find help"));
    query_->setPlaceholderText(tr("a label, a key, a word"));
    query_->setClearButtonEnabled(true);
    query_->setToolTip(
        tr("Finds pages of settings, controls, commands, layers, counters and topics that hold all these "
           "words."));
    column->addWidget(query_);
    results_ = new QListWidget(this);
    results_->setObjectName("help found");
    results_->setAccessibleName(tr("Pages found"));
    results_->setToolTip(tr("Pages that were found, best first."));
    results_->setMaximumHeight(150);
    results_->hide();
    column->addWidget(results_);
    text_ = new QTextBrowser(this);
    text_->setObjectName("help page");
    text_->setAccessibleName(tr("Help page"));
    text_->setToolTip(tr("The page."));
    text_->setFrameShape(QFrame::NoFrame);
    text_->setOpenLinks(false);
    text_->document()->setDocumentMargin(0);
    text_->document()->setIndentWidth(14);
    text_->viewport()->setAutoFillBackground(false);
    column->addWidget(text_, 1);
    auto* back = new QPushButton(tr("Back to the station"), this);
    back->setObjectName("close help");
    back->setToolTip(tr("Closes the help (F1)."));
    column->addWidget(back);
    connect(back, &QPushButton::clicked, this, &HelpBench::back_wanted);
    connect(query_, &QLineEdit::textChanged, this, &HelpBench::list);
    connect(results_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (!item) return;
        const std::string id = item->data(Qt::UserRole).toString().toStdString();
        if (const HelpPage* page = find_help(id)) return show_page(*page);
        for (const HelpPage& page : own_)
            if (page.id == id) return show_page(page);
    });
}

void HelpBench::gather(const QList<QAction*>& commands, QWidget* window) {
    own_.clear();
    for (const QAction* a : commands)
        own_.push_back({"command:" + a->objectName().toStdString(), a->text().toStdString(), a->toolTip().toStdString(),
                        "command key " + a->shortcut().toString(QKeySequence::NativeText).toStdString()});
    std::set<std::string> known;
    for (const QWidget* w : window->findChildren<QWidget*>()) {
        if (!is_control(w) || isAncestorOf(w)) continue;
        HelpPage page = help_for(w);
        if (page.body.empty() || find_help(page.id) || !known.insert(page.id).second) continue;
        own_.push_back(std::move(page));
    }
}

void HelpBench::show_for(const QWidget* control) {
    const HelpPage page = control ? help_for(control) : HelpPage{};
    if (!page.body.empty()) return show_page(page);
    if (const HelpPage* first = find_help("topic:tape")) show_page(*first);
}

void HelpBench::show_page(const HelpPage& page) {
    page_ = page;
    text_->setMarkdown(QString::fromStdString("### " + page.title + "\n\n" + page.body));
    QTextCursor all(text_->document()); // Markdown's paragraphs come without room between them
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        QTextBlockFormat format = block.blockFormat();
        format.setBottomMargin(format.headingLevel() > 0 ? 4 : block.textList() ? 3 : 8);
        format.setTopMargin(format.headingLevel() > 1 ? 8 : 0);
        format.setLineHeight(118, QTextBlockFormat::ProportionalHeight);
        all.setPosition(block.position());
        all.setBlockFormat(format);
    }
}

void HelpBench::search(const QString& query) {
    query_->setText(query);
}

std::vector<std::string> HelpBench::found() const {
    std::vector<std::string> out;
    for (int i = 0; i < results_->count(); ++i)
        out.push_back(results_->item(i)->data(Qt::UserRole).toString().toStdString());
    return out;
}

void HelpBench::list() {
    results_->clear();
    for (const HelpPage* p : search_help(query_->text().toStdString(), own_)) {
        auto* item = new QListWidgetItem(QString::fromStdString(p->title), results_);
        item->setData(Qt::UserRole, QString::fromStdString(p->id));
        item->setToolTip(QString::fromStdString(p->id));
    }
    results_->setVisible(!query_->text().trimmed().isEmpty());
    if (results_->count() > 0)
        results_->setCurrentRow(0);
    else if (!query_->text().trimmed().isEmpty())
        show_page({"", tr("Nothing found").toStdString(),
                   tr("No page holds all of these words. Try one of them alone.").toStdString(), ""});
}

} // namespace mirolux::app
