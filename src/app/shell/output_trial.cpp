// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/output_trial.h"

#include "app/shell/output_menu.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QSettings>
#include <QVBoxLayout>

namespace stone
{

namespace
{

const QString askedKey = QStringLiteral("output/asked");

} // namespace

OutputTrial::OutputTrial(Playback& playback, OutputMenu& output, QWidget* parent)
    : QDialog(parent), playback_(playback), output_(output), headphones_(new QRadioButton(tr("Headphones"))),
      loudspeakers_(new QRadioButton(tr("Two loudspeakers"))), words_(new QLabel)
{
    setObjectName("outputTrial");
    setWindowTitle(tr("How do you listen?"));
    headphones_->setObjectName("trialHeadphones");
    loudspeakers_->setObjectName("trialLoudspeakers");
    words_->setObjectName("trialWords");
    words_->setWordWrap(true);
    auto* box = new QVBoxLayout(this);
    box->addWidget(headphones_);
    box->addWidget(loudspeakers_);
    box->addWidget(words_);
    auto* row = new QHBoxLayout;
    const struct {
        const char* name;
        QString text;
        std::optional<double> from_deg;
    } sides[] = {{"trialLeft", tr("Left"), -90.0},
                 {"trialAhead", tr("Ahead"), 0.0},
                 {"trialRight", tr("Right"), 90.0},
                 {"trialBehind", tr("Behind"), 180.0},
                 {"trialRound", tr("Goes round"), {}}};
    for (const auto& side : sides) {
        auto* button = new QPushButton(side.text);
        button->setObjectName(side.name);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, [this, from = side.from_deg] { playback_.tryOutput(from); });
        row->addWidget(button);
    }
    box->addLayout(row);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    box->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(headphones_, &QRadioButton::clicked, this, [this] { output_.use(Layout::binaural); });
    connect(loudspeakers_, &QRadioButton::clicked, this, [this] { output_.use(Layout::stereo); });
    connect(&playback_, &Playback::listeningChanged, this, &OutputTrial::refresh);
    refresh();
}

bool OutputTrial::asked()
{
    return QSettings().value(askedKey, false).toBool();
}

void OutputTrial::refresh()
{
    const Layout layout = playback_.layout();
    headphones_->setChecked(layout == Layout::binaural);
    loudspeakers_->setChecked(layout == Layout::stereo);
    words_->setText(
        layout == Layout::binaural
            ? tr("Try it: what is left must be left, else turn the headphones round. What goes round goes behind you too.")
        : layout == Layout::stereo
            ? tr("Try it: what is left must be left. Two loudspeakers cannot tell behind from ahead, nor above from below; "
                 "headphones can.")
            : tr("More loudspeakers, as chosen at the top: each side must come from where it says."));
}

void OutputTrial::done(int result)
{
    playback_.endTrial();
    QSettings().setValue(askedKey, true);
    QDialog::done(result);
}

} // namespace stone
