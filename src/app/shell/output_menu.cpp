// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/output_menu.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "app/widgets/number_field.h"
#include "spatial/sofa.h"

#include <QActionGroup>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QSettings>
#include <QWidgetAction>
#include <QtConcurrent>

namespace stone
{

namespace
{

struct Choice {
    Layout layout;
    const char* name;
};
constexpr Choice choices[] = {
    {Layout::stereo, "Stereo loudspeakers"}, {Layout::quad, "Quad"}, {Layout::surround51, "5.1"}, {Layout::surround71, "7.1"},
    {Layout::surround714, "7.1.4"},          {Layout::mono, "Mono"}};

/// Kept from one run of the program to the next.
const QString layoutKey = QStringLiteral("output/layout");
const QString earsKey = QStringLiteral("output/ears"); ///< a SOFA file; empty: the built-in head

} // namespace

OutputMenu::OutputMenu(Playback& playback, QWidget* parent)
    : QToolButton(parent), playback_(playback), monitor_(new NumberField("dB", -60, 20, 1, 1))
{
    setObjectName("outputMenu");
    setPopupMode(QToolButton::InstantPopup);
    setMenu(new QMenu(this));
    menu()->setObjectName("outputLayouts");
    monitor_->setObjectName("monitorLevel");
    monitor_->setToolTip(tr("How loud you hear it. Changes nothing in the project or its renders"));
    connect(menu(), &QMenu::aboutToShow, this, &OutputMenu::fill);
    connect(&playback_, &Playback::listeningChanged, this, &OutputMenu::refresh);
    connect(monitor_, &NumberField::valueEdited, this, [this](double value) {
        playback_.setMonitor_db(value);
        refresh();
    });
    connect(&reading_, &QFutureWatcher<Ears>::finished, this, &OutputMenu::earsRead);
    auto* row = new QWidget;
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(24, 2, 8, 2);
    box->addWidget(theme::caption(tr("Monitor"), monitor_));
    monitor_->setFixedWidth(84);
    box->addWidget(monitor_);
    auto* action = new QWidgetAction(menu());
    action->setDefaultWidget(row);
    action->setObjectName("monitor");
    menu()->addAction(action);
    const QSettings settings;
    const QString ears = settings.value(earsKey).toString();
    const auto layout = layoutNamed(settings.value(layoutKey).toString().toStdString());
    if (layout == Layout::binaural && !ears.isEmpty()) {
        useEars(ears);
    } else if (layout) {
        playback_.setLayout(*layout);
    }
    refresh();
}

/// Ears that are being read would keep the program from ending.
OutputMenu::~OutputMenu()
{
    reading_.cancel();
}

void OutputMenu::use(Layout layout)
{
    playback_.setLayout(layout);
    QSettings().setValue(layoutKey, QString::fromUtf8(stone::nameOf(layout)));
}

void OutputMenu::fill()
{
    auto* monitor = menu()->findChild<QAction*>("monitor");
    for (QAction* action : menu()->actions()) {
        menu()->removeAction(action);
        if (action != monitor) {
            action->deleteLater();
        }
    }
    const Layout now = playback_.layout();
    const auto add = [&](const QString& name, bool on, const QString& key, auto act) {
        QAction* action = menu()->addAction(name);
        action->setCheckable(true);
        action->setChecked(on);
        action->setObjectName(key);
        connect(action, &QAction::triggered, this, act);
    };
    const bool headphones = now == Layout::binaural;
    menu()->addSection(tr("Headphones"));
    add(tr("Headphones, built-in head"), headphones && !playback_.head(), "binaural", [this] {
        playback_.setHead({});
        QSettings().remove(earsKey);
        use(Layout::binaural);
    });
    const QString installed = QString::fromStdString(installedSofa().string());
    if (playback_.head()) {
        add(tr("Headphones, ears: %1").arg(QString::fromStdString(playback_.head()->name())), headphones, "binauralMeasured",
            [this] { use(Layout::binaural); });
    } else if (!installed.isEmpty()) {
        add(tr("Headphones, measured ears"), false, "binauralMeasured", [this, installed] { useEars(installed); });
    }
    add(tr("Headphones, ears from a SOFA file …"), false, "binauralFile", [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Measured ears"), {}, tr("Measured ears (*.sofa)"));
        if (!file.isEmpty()) {
            useEars(file);
        }
    });
    menu()->addSection(tr("Loudspeakers"));
    for (const Choice& choice : choices) {
        add(QString::fromUtf8(choice.name), now == choice.layout, QString::fromUtf8(stone::nameOf(choice.layout)),
            [this, layout = choice.layout] { use(layout); });
    }
    menu()->addSeparator();
    menu()->addAction(monitor);
    monitor_->present(playback_.monitor_db());
}

void OutputMenu::useEars(const QString& sofaFile)
{
    setEnabled(false);
    setText(tr("reading ears …"));
    reading_.setFuture(QtConcurrent::run(&workPool(), [path = sofaFile.toStdString(),
                                                       rate = playback_.live().rate()](QPromise<Ears>& read) {
        try {
            read.addResult(Ears{readSofa(path, rate, [&read] { return read.isCanceled(); }), QString::fromStdString(path), {}});
        } catch (const SofaError& error) {
            read.addResult(Ears{nullptr, {}, QString::fromUtf8(error.what())});
        }
    }));
}

void OutputMenu::earsRead()
{
    setEnabled(true);
    const Ears ears = reading_.result();
    playback_.setHead(ears.head);
    QSettings().setValue(earsKey, ears.file);
    use(Layout::binaural);
    refresh();
    if (!ears.head) {
        emit failed(tr("%1. Until then the built-in head is used.").arg(ears.error));
    }
}

void OutputMenu::refresh()
{
    const Layout layout = playback_.layout();
    QString name = layout == Layout::binaural ? tr("Headphones")
                   : layout == Layout::stereo ? tr("Stereo")
                                              : QString::fromUtf8(stone::nameOf(layout));
    name[0] = name[0].toUpper();
    if (playback_.monitor_db() != 0.0) {
        name += ' ' + theme::signedNumber(playback_.monitor_db(), 0);
    }
    setText(name);
    QString help = layout == Layout::binaural
                       ? tr("Rendered for headphones through %1")
                             .arg(playback_.head() ? QString::fromStdString(playback_.head()->name()) : tr("the built-in head"))
                       : tr("Rendered for loudspeakers");
    setToolTip(help + tr(". Click for other layouts and the monitor level"));
}

} // namespace stone
