#pragma once
#include "core/help/help.h"
#include <QWidget>

class QAction;
class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace mirolux::app {

/// Help where one is: the page of a control, of a setting or of what a view shows; and pages found by words.
class HelpBench : public QWidget {
    Q_OBJECT
public:
    explicit HelpBench(QWidget* parent = nullptr);

    /// What can be found beside settings and topics: commands, and the controls of a window.
    void gather(const QList<QAction*>& commands, QWidget* window);
    /// The page of a control, or of the nearest thing around it that has one.
    void show_for(const QWidget* control);
    void show_page(const HelpPage& page);
    void search(const QString& query);
    const HelpPage& page() const { return page_; }
    std::vector<std::string> found() const; // ids, best first

signals:
    void back_wanted();

private:
    void list();
    QLineEdit* query_;
    QListWidget* results_;
    QTextBrowser* text_;
    HelpPage page_;
    std::vector<HelpPage> own_; // of commands and controls
};

/// The page of a control: its setting's, or its words and what they belong to. Empty body: there is none.
HelpPage help_for(const QWidget* control);
/// What a control is called: its accessible name, its text, its label's.
QString name_of(const QWidget* control);
/// True for what one can act on: buttons, fields, lists, figures.
bool is_control(const QWidget* widget);
/// Names the topic of docs/help that tells about a widget and all in it.
void set_help_topic(QWidget* widget, const char* topic);

} // namespace mirolux::app
