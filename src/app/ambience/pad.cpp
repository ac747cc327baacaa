// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/pad.h"

#include "app/crowd/burst_form.h"
#include "app/forms/rebuilt.h"
#include "app/theme/labels.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenu>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>

namespace stone
{

namespace
{

constexpr int sliderSteps = 1000;

QToolButton* menuButton(const QString& objectName, const QString& name)
{
    auto* button = new QToolButton;
    button->setObjectName(objectName);
    button->setText(QStringLiteral("⋯"));
    button->setToolTip(name);
    button->setAccessibleName(name);
    button->setStyleSheet("QToolButton { padding: 2px 6px; } QToolButton::menu-indicator { image: none; }");
    button->setPopupMode(QToolButton::InstantPopup);
    button->setMenu(new QMenu(button));
    return button;
}

} // namespace

Pad::Pad(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent, Qt::Tool), session_(session), playback_(playback), signalList_(new QWidget), values_(new QWidget),
      events_(new WalkEvents(session, playback))
{
    setObjectName("pad");
    setWindowTitle(tr("Pad: signals and game values"));
    setMinimumWidth(400);
    auto* box = new QVBoxLayout(this);
    const auto adder = [&](const QString& title, const QString& text, const char* name, auto&& add) {
        auto* line = new QHBoxLayout;
        line->addWidget(theme::heading(title));
        line->addStretch();
        auto* button = new QPushButton(text);
        button->setObjectName(name);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, add);
        line->addWidget(button);
        box->addLayout(line);
    };
    adder(tr("Signals"), tr("New signal…"), "newSignal", [this] {
        const QString name = QInputDialog::getText(this, tr("New signal"), tr("Name")).trimmed();
        if (!name.isEmpty()) {
            Project next = session_.project();
            next.signalNames.put({next.signalNames.freshId(name.toStdString()), name.toStdString(), {}});
            session_.edit(std::move(next), tr("New signal %1").arg(name));
        }
    });
    box->addWidget(signalList_);
    adder(tr("Game values"), tr("New value…"), "newValue", [this] {
        const QString name = QInputDialog::getText(this, tr("New game value"), tr("Name")).trimmed();
        if (!name.isEmpty()) {
            Project next = session_.project();
            GameValue value;
            value.id = next.gameValues.freshId(name.toStdString());
            value.name = name.toStdString();
            next.gameValues.put(std::move(value));
            session_.edit(std::move(next), tr("New game value %1").arg(name));
        }
    });
    box->addWidget(values_);
    box->addWidget(theme::heading(tr("The character")));
    auto* acts = new QHBoxLayout;
    const auto act = [&](const QString& text, const QString& help, auto&& what) {
        auto* button = new QPushButton(text);
        button->setToolTip(help);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, what);
        acts->addWidget(button);
    };
    act(tr("Use what is near (I)"), tr("Starts what is within reach and waits for it"), [this] { playback_.interact(); });
    act(tr("Put back to the start"), tr("The character's reset"), [this] { playback_.reset(); });
    act(tr("Jump (U)"), tr("Up and down again"), [this] { playback_.jump(); });
    auto* moreActs = menuButton("actsMenu", tr("More for the character"));
    acts->addWidget(moreActs);
    QMenu* more = moreActs->menu();
    more->addAction(tr("Use what is near, on the walk"), this,
                    [this] { events_->add({.kind = WalkEvent::Kind::interact, .signal = {}, .value = {}}); });
    more->addAction(tr("Put back to the start, on the walk"), this,
                    [this] { events_->add({.kind = WalkEvent::Kind::reset, .signal = {}, .value = {}}); });
    acts->addStretch();
    box->addLayout(acts);
    box->addWidget(theme::heading(tr("Burst")));
    box->addWidget(new BurstForm(session, playback));
    auto* note = theme::explained(tr("They act while you listen. What is put on a walk happens in its renders too."));
    box->addWidget(note);
    box->addWidget(events_);
    box->addStretch();
    connect(&session_, &Session::documentChanged, this, &Pad::rebuild);
    connect(&playback_, &Playback::ticked, this, &Pad::refresh);
    connect(&playback_, &Playback::listeningChanged, this, &Pad::refresh);
    rebuild();
}

void Pad::rebuild()
{
    const Project& project = session_.project();
    if (built_ && project.signalNames == shownSignals_ && project.gameValues == shownValues_) {
        return;
    }
    built_ = true;
    shownSignals_ = project.signalNames;
    shownValues_ = project.gameValues;
    shows_.clear();
    rebuilt(signalList_, [this] { buildSignals(); });
    rebuilt(values_, [this] { buildValues(); });
    refresh();
    adjustSize();
}

void Pad::buildSignals()
{
    auto* grid = new QGridLayout(signalList_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(2, 1);
    int cell = 0;
    for (const auto& known : session_.project().signalNames) {
        const QString id = QString::fromStdString(known->id.text);
        const QString name = QString::fromStdString(known->name);
        auto* button = new QPushButton(name);
        button->setObjectName("signal " + id);
        button->setToolTip(tr("Send this signal"));
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, [this, signal = known->id] { playback_.send(signal); });
        shows_.push_back([this, button] { button->setEnabled(playback_.listening()); });
        auto* more = menuButton("more signal " + id, tr("More for the signal %1").arg(name));
        more->menu()->addAction(tr("Put on the walk, now"), this, [this, signal = known->id] {
            events_->add({.kind = WalkEvent::Kind::signal, .signal = signal, .value = {}});
        });
        more->menu()->addAction(tr("Rename…"), this, [this, signal = known->id, name] {
            const QString to =
                QInputDialog::getText(this, tr("Rename the signal"), tr("Name"), QLineEdit::Normal, name).trimmed();
            if (const Signal* found = session_.project().signalNames.find(signal); found != nullptr && !to.isEmpty()) {
                Signal next = *found;
                next.name = to.toStdString();
                Project project = session_.project();
                project.signalNames.put(std::move(next));
                session_.edit(std::move(project), tr("Signal %1 is now %2").arg(name, to));
            }
        });
        more->menu()->addAction(tr("Remove"), this, [this, signal = known->id, name] {
            Project project = session_.project();
            project.signalNames.remove(signal);
            session_.edit(std::move(project), tr("Remove the signal %1").arg(name));
        });
        grid->addWidget(button, cell / 2, cell % 2 * 2);
        grid->addWidget(more, cell / 2, cell % 2 * 2 + 1);
        ++cell;
    }
    if (cell == 0) {
        grid->addWidget(theme::caption(tr("None yet. A signal starts or stops what waits for it.")), 0, 0);
    }
}

void Pad::editValue(const GameValueId& id, const QString& what, const QString& gesture,
                    const std::function<void(GameValue&)>& change)
{
    if (const GameValue* found = session_.project().gameValues.find(id)) {
        GameValue next = *found;
        change(next);
        const QString name = QString::fromStdString(found->name);
        Project project = session_.project();
        project.gameValues.put(std::move(next));
        session_.edit(std::move(project), tr("Game value %1: %2").arg(name, what), gesture);
    }
}

/// Range, rest, smoothing and signals of a value. An end that would pass the other one takes it along.
QWidget* Pad::valueSettings(const GameValue& value)
{
    auto* box = new QWidget;
    auto* grid = new QGridLayout(box);
    grid->setContentsMargins(12, 0, 0, 4);
    grid->setVerticalSpacing(0);
    const auto field = [&](int column, const char* name, const QString& label, const QString& unit, double least, double shown,
                           void (*set)(GameValue&, double)) {
        auto* number = new NumberField(unit, least, 1e9, 2, 0.1);
        number->setObjectName(QString(name) + ' ' + QString::fromStdString(value.id.text));
        number->setAccessibleName(label);
        number->present(shown);
        connect(number, &NumberField::valueEdited, this, [this, id = value.id, label, set, name](double to) {
            editValue(id, tr("%1 %2").arg(label.toLower()).arg(to), QString(name), [&](GameValue& v) { set(v, to); });
        });
        connect(number, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        grid->addWidget(theme::caption(label), 0, column);
        grid->addWidget(number, 1, column);
    };
    field(0, "least", tr("Least"), {}, -1e9, value.least, [](GameValue& v, double to) {
        v.least = to;
        v.most = std::max(v.most, to);
        v.rest = std::max(v.rest, to);
    });
    field(1, "most", tr("Most"), {}, -1e9, value.most, [](GameValue& v, double to) {
        v.most = to;
        v.least = std::min(v.least, to);
        v.rest = std::min(v.rest, to);
    });
    field(2, "rest", tr("At rest"), {}, -1e9, value.rest,
          [](GameValue& v, double to) { v.rest = std::clamp(to, v.least, v.most); });
    field(3, "smoothing", tr("A change takes"), "s", 0.0, value.smoothing_s,
          [](GameValue& v, double to) { v.smoothing_s = to; });
    const auto bySignal = [&](int column, const char* name, const QString& label, SignalId GameValue::*member) {
        auto* signal = new QComboBox;
        signal->setObjectName(QString(name) + ' ' + QString::fromStdString(value.id.text));
        signal->setAccessibleName(label);
        signal->addItem(tr("no signal"), QString());
        for (const auto& known : session_.project().signalNames) {
            signal->addItem(QString::fromStdString(known->name), QString::fromStdString(known->id.text));
        }
        signal->setCurrentIndex(std::max(signal->findData(QString::fromStdString((value.*member).text)), 0));
        connect(signal, &QComboBox::activated, this, [this, id = value.id, label, member, signal] {
            editValue(id, tr("%1 %2").arg(label.toLower(), signal->currentText()), {},
                      [&](GameValue& v) { (v.*member).text = signal->currentData().toString().toStdString(); });
        });
        grid->addWidget(theme::caption(label), 2, column, 1, 2);
        grid->addWidget(signal, 3, column, 1, 2);
    };
    bySignal(0, "mostOn", tr("To its most on"), &GameValue::mostOn);
    bySignal(2, "restOn", tr("Back to rest on"), &GameValue::restOn);
    return box;
}

void Pad::buildValues()
{
    auto* grid = new QGridLayout(values_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setVerticalSpacing(2);
    grid->setColumnStretch(1, 1);
    grid->setColumnMinimumWidth(2, 80);
    int line = 0;
    for (const auto& known : session_.project().gameValues) {
        const QString id = QString::fromStdString(known->id.text);
        const QString name = QString::fromStdString(known->name);
        auto* slider = new QSlider(Qt::Horizontal);
        slider->setObjectName("value " + id);
        slider->setAccessibleName(name);
        slider->setRange(0, sliderSteps);
        auto* field = new NumberField({}, known->least, known->most, 2, (known->most - known->least) / 20.0);
        field->setAccessibleName(name);
        const auto present = [slider, field, known](double number) {
            const QSignalBlocker quiet(slider);
            const double width = std::max(known->most - known->least, 1e-12);
            slider->setValue(static_cast<int>(std::lround((number - known->least) / width * sliderSteps)));
            field->present(number);
        };
        present(known->rest);
        connect(slider, &QSlider::valueChanged, this, [this, known](int at) {
            playback_.setGameValue(known->id, known->least + (known->most - known->least) * at / sliderSteps);
        });
        connect(field, &NumberField::valueEdited, this, [this, known](double to) { playback_.setGameValue(known->id, to); });
        shows_.push_back([this, slider, field, known, present] {
            slider->setEnabled(playback_.listening());
            field->setEnabled(playback_.listening());
            if (playback_.world() != nullptr && !slider->isSliderDown() && !field->hasFocus()) {
                present(playback_.hearing().world().valueAt(playback_.moment(), known->id));
            }
        });
        auto* more = menuButton("more value " + id, tr("More for the game value %1").arg(name));
        more->menu()->addAction(tr("Put on the walk, now and as it is"), this, [this, field, value = known->id] {
            events_->add({.kind = WalkEvent::Kind::value, .signal = {}, .value = value, .number = field->value()});
        });
        QAction* open = more->menu()->addAction(tr("Range, rest, smoothing and signals"));
        open->setCheckable(true);
        open->setChecked(open_.contains(known->id));
        QWidget* settings = valueSettings(*known);
        settings->setVisible(open->isChecked());
        connect(open, &QAction::toggled, this, [this, settings, value = known->id](bool on) {
            on ? void(open_.insert(value)) : void(open_.erase(value));
            settings->setVisible(on);
            adjustSize();
        });
        more->menu()->addAction(tr("Remove"), this, [this, value = known->id, name] {
            Project project = session_.project();
            project.gameValues.remove(value);
            session_.edit(std::move(project), tr("Remove the game value %1").arg(name));
        });
        grid->addWidget(new QLabel(name), line, 0);
        grid->addWidget(slider, line, 1);
        grid->addWidget(field, line, 2);
        grid->addWidget(more, line++, 3);
        grid->addWidget(settings, line++, 0, 1, 4);
    }
    if (line == 0) {
        grid->addWidget(theme::caption(tr("None yet. Lanes and conditions can follow a game value.")), 0, 0);
    }
}

void Pad::refresh()
{
    for (const auto& show : shows_) {
        show();
    }
}

} // namespace stone
