#include "app/look/theme.h"

#include "app/look/plurals.h"

#include <QApplication>
#include <QFontDatabase>
#include <QHash>
#include <QLocale>
#include <QPainter>
#include <QPalette>
#include <QPixmap>
#include <QSvgRenderer>

namespace pristine::app {
namespace {

// Our own line icons on a 24-unit square, one stroke width; %1 is the colour.
const QHash<QString, QString>& drawings() {
    static const QHash<QString, QString> d{
        {"rectangle", "<rect x='4' y='6' width='16' height='12' stroke-dasharray='3 2'/>"},
        {"polygon",
         "<path d='M12 3.5 20.5 10 17 20H7L3.5 10Z'/><circle cx='12' cy='3.5' r='1.4' fill='%1'/><circle "
         "cx='20.5' cy='10' r='1.4' fill='%1'/><circle cx='3.5' cy='10' r='1.4' fill='%1'/>"},
        {"freehand", "<path d='M5 13c-2-5 2-9 7-8 4 .8 8 3 7 8s-6 7-8 4 2-5 5-4'/>"},
        {"circle",
         "<circle cx='12' cy='12' r='8' stroke-dasharray='3 2'/><circle cx='12' cy='12' r='1' fill='%1'/>"},
        {"strip", "<path d='M4 17 17 4l3 3L7 20Z' stroke-dasharray='3 2'/><path d='M5.5 18.5 18.5 5.5'/>"},
        {"brush", "<circle cx='9' cy='14' r='5.5'/><path d='M13 10 20.5 3.5'/>"},
        {"ball-brush", "<circle cx='9' cy='14' r='5.5'/><path d='M4 15.5c3 1.6 7 1.6 10 0M13 10 20.5 3.5'/>"},
        {"ball", "<circle cx='12' cy='12' r='8'/><path d='M4.2 13.5c4 2.4 11.6 2.4 15.6 0'/>"},
        {"cylinder", "<ellipse cx='12' cy='6' rx='6.5' ry='2.6'/><path d='M5.5 6v12c0 3.4 13 3.4 13 0V6'/>"},
        {"plane", "<path d='M3 16 9 8h12l-6 8ZM12 12V4M9.8 6.2 12 4l2.2 2.2'/>"},
        {"level", "<path d='M3.5 17h17M12 13V5M9.8 7.2 12 5l2.2 2.2'/>"},
        {"box", "<path d='M5 8.5 12 5l7 3.5v8L12 20l-7-3.5ZM5 8.5l7 3.5 7-3.5M12 12v8'/>"},
        {"painted-plane",
         "<path d='M3 16 9 8h12l-6 8Z'/><path d='M8.5 14c2-3 4-1 5-2.5S16 10 17 10' stroke-width='2.6'/>"},
        {"line",
         "<path d='M4 18 9.5 7.5 15 14 20.5 5'/><circle cx='9.5' cy='7.5' r='1.6' fill='%1'/><circle cx='15' "
         "cy='14' r='1.6' fill='%1'/>"},
        {"section", "<path d='M4 20 20 4M6.5 13 11 17.5M13 6.5 17.5 11'/>"},
        {"clip",
         "<path d='M5 8.5 12 5l7 3.5v8L12 20l-7-3.5ZM5 8.5l7 3.5 7-3.5M12 12v8' stroke-dasharray='2.4 "
         "1.8'/>"},
        {"pick",
         "<path d='M12 3.5v5M12 15.5v5M3.5 12h5M15.5 12h5'/><circle cx='12' cy='12' r='1.2' fill='%1'/>"},
        {"mark",
         "<path d='M5 18.5 18.5 5M5 18.5l4.5-.8M5 18.5l.8-4.5M18.5 5l-4.5.8M18.5 5l-.8 4.5M10 10.5l2 2M13 "
         "7.5l2 2'/>"},
        {"one-point",
         "<path d='M4.5 4 10 17 12 11.8 17.2 9.8Z'/><circle cx='18.5' cy='18.5' r='2' fill='%1'/>"},
        {"rule",
         "<path d='M4 20.5V13M8 20.5V6M12 20.5V10M16 20.5v-4M20 20.5v-2'/><path d='M13.8 3.5v17' "
         "stroke-dasharray='2 1.6'/>"},
        {"guard",
         "<path d='M12 3.5 19 6v6c0 4.5-3.2 7.2-7 8.5-3.8-1.3-7-4-7-8.5V6Z' stroke-dasharray='1.6 2.2'/>"},
        {"apart",
         "<rect x='3.5' y='8' width='8' height='8' rx='1.5'/><path d='M14.5 12h6M17.8 9.2 20.6 12l-2.8 "
         "2.8'/>"},
        {"class",
         "<rect x='3.5' y='4.5' width='5' height='5' fill='%1'/><rect x='3.5' y='14.5' width='5' "
         "height='5'/><path d='M11.5 7h9M11.5 17h9'/>"},
        {"put-back", "<path d='M12 4v10M8 10l4 4 4-4M4.5 19.5h15'/>"},
        {"eye",
         "<path d='M2.5 12C6 6.5 18 6.5 21.5 12 18 17.5 6 17.5 2.5 12Z'/><circle cx='12' cy='12' r='2.6' "
         "fill='%1'/>"},
        {"eye-off",
         "<path d='M2.5 12C6 6.5 18 6.5 21.5 12 18 17.5 6 17.5 2.5 12Z' opacity='.45'/><path d='M5 19 19 "
         "5'/>"},
        {"lock", "<rect x='5' y='11' width='14' height='9' rx='1.5'/><path d='M8 11V8a4 4 0 0 1 8 0v3'/>"},
        {"lock-open",
         "<rect x='5' y='11' width='14' height='9' rx='1.5' opacity='.5'/><path d='M8 11V8a4 4 0 0 1 7.5-2' "
         "opacity='.5'/>"},
        {"remove",
         "<rect x='3.5' y='3.5' width='17' height='17' rx='2'/><circle cx='12' cy='12' r='5'/><path d='M8.7 "
         "12.9 12.9 8.7M9.6 15.4 15.4 9.6M11.6 16.6 16.6 11.6'/>"},
        {"keep",
         "<path d='M3.5 8 8 3.5M3.5 13 13 3.5M3.5 18 6.6 14.9M14.9 6.6 18 3.5M5 20.5 9 16.6M16.6 9 20.5 5M10 "
         "20.5 20.5 10M15 20.5 20.5 15'/><circle cx='12' cy='12' r='5.2' fill='#F5F2EC'/>"},
        {"open", "<path d='M3.5 18.5V6h6l2 2.5h8v2M3.5 18.5 6.5 10.5h15L18.5 18.5Z'/>"},
        {"save", "<path d='M12 3.5v11M7.5 10 12 14.5 16.5 10M4 16v4h16v-4'/>"},
        {"export", "<path d='M12 14.5v-11M7.5 8 12 3.5 16.5 8M4 14v6h16v-6'/>"},
        {"undo", "<path d='M8.5 5 4 9.5 8.5 14M4 9.5h10a5.5 5.5 0 0 1 0 11H9'/>"},
        {"redo", "<path d='M15.5 5 20 9.5 15.5 14M20 9.5H10a5.5 5.5 0 0 0 0 11h5'/>"},
        {"cancel", "<path d='M6 6 18 18M18 6 6 18'/>"},
        {"perspective", "<path d='M4 20 9.5 5h5L20 20M6.2 14h11.6M8 9h8'/>"},
        {"parallel", "<path d='M7 20V4M17 20V4M7 9h10M7 15h10'/>"},
        {"everything",
         "<path d='M4 9V4h5M15 4h5v5M20 15v5h-5M9 20H4v-5'/><circle cx='12' cy='12' r='2.5'/>"}};
    return d;
}

QPixmap drawn(const QString& body, const QColor& colour, int size) {
    const QString svg =
        QStringLiteral(
            "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 24 24' fill='none' stroke='%1' "
            "stroke-width='1.7' stroke-linecap='round' stroke-linejoin='round'>%2</svg>")
            .arg(colour.name(), QString(body).replace("%1", colour.name()));
    QSvgRenderer renderer(svg.toUtf8());
    QPixmap pixmap(size, size);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    renderer.render(&painter);
    return pixmap;
}

const char* kStyle = R"(
* { font-size: 10pt; color: #1D2733; }
QMainWindow, QDialog, QMenu, QMenuBar, QStatusBar { background: #F5F2EC; }
QMenuBar { border-bottom: 1px solid #D8D1C3; padding: 2px 6px; }
QMenuBar::item { padding: 4px 9px; background: transparent; border-radius: 4px; }
QMenuBar::item:selected, QMenu::item:selected { background: #E2DBCD; }
QMenu { border: 1px solid #D8D1C3; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 24px; border-radius: 4px; }
QMenu::item:disabled { color: #9A968D; }
QMenu::separator { height: 1px; background: #D8D1C3; margin: 4px 8px; }
QToolTip { background: #1D2733; color: #F5F2EC; border: none; padding: 5px; }
#rail, #ledgerStrip, #statusLine { background: #ECE7DD; }
#rail { border-left: 1px solid #D8D1C3; border-right: 1px solid #D8D1C3; }
#ledgerStrip { border-top: 1px solid #D8D1C3; }
#statusLine { border-top: 1px solid #D8D1C3; }
#contents, #workCard { background: #F5F2EC; }
#workCard { border-left: 1px solid #D8D1C3; }
#cardTitle { font-size: 13pt; font-weight: 600; }
.soft, #soft { color: #6B7076; font-size: 9pt; }
QToolButton[rail="true"] { border: none; border-radius: 8px; padding: 4px; }
QToolButton[rail="true"]:hover { background: #DDD6C7; }
QToolButton[rail="true"]:checked { background: #1D2733; }
QToolButton:focus, QPushButton:focus { outline: none; border: 2px solid #B86BFF; }
QPushButton { background: #FFFDF9; border: 1px solid #CFC7B7; border-radius: 5px; padding: 4px 10px; }
QPushButton[segment="true"] { padding: 4px 7px; }
QPushButton#findCommand { color: #6B7076; text-align: left; border-radius: 11px; padding: 3px 14px; margin: 2px 10px 2px 0; }
QPushButton:hover { background: #F0EADF; }
QPushButton:checked { background: #1D2733; color: #F5F2EC; border-color: #1D2733; }
QPushButton:disabled { color: #A29D93; background: #F1EDE5; }
QLineEdit { background: #FFFDF9; border: 1px solid #CFC7B7; border-radius: 5px; padding: 3px 6px; selection-background-color: #B86BFF; }
QLineEdit:focus { border: 2px solid #B86BFF; padding: 2px 5px; }
QComboBox QAbstractItemView { background: #FFFDF9; selection-background-color: #E2DBCD; selection-color: #1D2733; }
QTreeWidget { background: #F5F2EC; border: none; outline: none; font-size: 9.5pt; }
QTreeWidget::item { height: 24px; }
QTreeWidget::item:selected { background: #FFFDF9; color: #1D2733; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QScrollBar:horizontal { height: 8px; background: transparent; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar::handle { background: #C9C1B1; border-radius: 4px; min-width: 24px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QProgressBar { background: #D8D1C3; border: none; border-radius: 3px; max-height: 6px; }
QProgressBar::chunk { background: #19B5A5; border-radius: 3px; }
)";

}  // namespace

void apply_theme(QApplication& app) {
    QApplication::installTranslator(new Plurals(&app));
    app.setStyle(QStringLiteral("Fusion"));
    QPalette p;
    p.setColor(QPalette::Window, token::paper);
    p.setColor(QPalette::Base, QColor(0xFF, 0xFD, 0xF9));
    p.setColor(QPalette::AlternateBase, token::paper_deep);
    p.setColor(QPalette::WindowText, token::ink);
    p.setColor(QPalette::Text, token::ink);
    p.setColor(QPalette::Button, token::paper);
    p.setColor(QPalette::ButtonText, token::ink);
    p.setColor(QPalette::Highlight, token::pick);
    p.setColor(QPalette::PlaceholderText, token::ink_soft);
    app.setPalette(p);
    app.setStyleSheet(QString::fromUtf8(kStyle));
}

QIcon icon(const QString& name, const QColor& colour) {
    const auto it = drawings().find(name);
    if (it == drawings().end()) return {};
    QIcon i(drawn(*it, colour, 48));
    i.addPixmap(drawn(*it, colour, 48), QIcon::Selected);
    i.addPixmap(drawn(*it, QColor(0xB4, 0xAE, 0xA2), 48), QIcon::Disabled);
    i.addPixmap(drawn(*it, token::paper, 48), QIcon::Normal, QIcon::On);
    return i;
}

QString grouped(std::uint64_t n) {
    return QLocale(QLocale::English).toString(static_cast<qulonglong>(n));
}

QString rounded(std::uint64_t n) {
    if (n < 10'000) return grouped(n);
    if (n < 1'000'000)
        return QStringLiteral("%1 k").arg(
            QString::number(static_cast<double>(n) / 1e3, 'f', n < 100'000 ? 1 : 0));
    return QStringLiteral("%1 M").arg(QString::number(static_cast<double>(n) / 1e6, 'f', 2));
}

}  // namespace pristine::app
