#include "app/ambience/pad.h"

#include "app/bench/number_field.h"
#include "app/theme/labels.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>

namespace stone
{

namespace
{

constexpr int sliderSteps = 1000;

QLabel* heading(const QString& text)
{
    auto* label = new QLabel(text);
    label->setFont(theme::text(9.5, QFont::Bold));
    return label;
}

} // namespace

Pad::Pad(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent, Qt::Tool), session_(session), playback_(playback), signalList_(new QWidget), values_(new QWidget)
{
    setObjectName("pad");
    setWindowTitle(tr("Pad: signals and game values"));
    setMinimumWidth(340);
    auto* box = new QVBoxLayout(this);
    const auto adder = [&](const QString& title, const QString& text, const char* name, auto&& add) {
        auto* line = new QHBoxLayout;
        line->addWidget(heading(title));
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
    box->addWidget(heading(tr("The character")));
    auto* acts = new QHBoxLayout;
    const auto act = [&](const QString& text, const QString& help, auto&& what) {
        auto* button = new QPushButton(text);
        button->setToolTip(help);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, what);
        acts->addWidget(button);
    };
    act(tr("Use what is near (I)"), tr("Starts what is within reach and waits for it"), [this] { playback_.interact(); });
    act(tr("Put back to the start"), tr("The character's reset: re-arms what plays once"), [this] { playback_.reset(); });
    acts->addStretch();
    box->addLayout(acts);
    auto* note = theme::caption(tr("They act while you listen. On a walk's time line they are written in the document."));
    note->setWordWrap(true);
    box->addWidget(note);
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
    for (QWidget* list : {signalList_, values_}) {
        delete list->layout();
        qDeleteAll(list->findChildren<QWidget*>(Qt::FindDirectChildrenOnly));
    }
    auto* signalGrid = new QGridLayout(signalList_);
    signalGrid->setContentsMargins(0, 0, 0, 0);
    int cell = 0;
    for (const auto& known : project.signalNames) {
        auto* button = new QPushButton(QString::fromStdString(known->name));
        button->setObjectName("signal " + QString::fromStdString(known->id.text));
        button->setToolTip(tr("Send this signal"));
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, [this, id = known->id] { playback_.send(id); });
        shows_.push_back([this, button] { button->setEnabled(playback_.listening()); });
        signalGrid->addWidget(button, cell / 2, cell % 2);
        ++cell;
    }
    if (cell == 0) {
        signalGrid->addWidget(theme::caption(tr("None yet. A signal starts or stops what waits for it.")), 0, 0);
    }
    auto* valueGrid = new QGridLayout(values_);
    valueGrid->setContentsMargins(0, 0, 0, 0);
    valueGrid->setColumnStretch(1, 1);
    int line = 0;
    for (const auto& known : project.gameValues) {
        auto* slider = new QSlider(Qt::Horizontal);
        slider->setObjectName("value " + QString::fromStdString(known->id.text));
        slider->setAccessibleName(QString::fromStdString(known->name));
        slider->setRange(0, sliderSteps);
        auto* field = new NumberField({}, known->least, known->most, 2, (known->most - known->least) / 20.0);
        field->setAccessibleName(QString::fromStdString(known->name));
        field->setFixedWidth(76);
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
        valueGrid->addWidget(new QLabel(QString::fromStdString(known->name)), line, 0);
        valueGrid->addWidget(slider, line, 1);
        valueGrid->addWidget(field, line++, 2);
    }
    if (line == 0) {
        valueGrid->addWidget(theme::caption(tr("None yet. Lanes and conditions can follow a game value.")), 0, 0);
    }
    refresh();
    adjustSize();
}

void Pad::refresh()
{
    for (const auto& show : shows_) {
        show();
    }
}

} // namespace stone
