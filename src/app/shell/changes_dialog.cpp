// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/changes_dialog.h"

#include "project/difference.h"

#include <QDialogButtonBox>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <algorithm>

namespace stone
{

ChangesDialog::ChangesDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), since_(new QComboBox), list_(new QListWidget), count_(new QLabel)
{
    setObjectName("changes");
    setWindowTitle(tr("What changed"));
    resize(620, 420);
    since_->setObjectName("changesSince");
    since_->setAccessibleName(tr("Since when"));
    list_->setObjectName("changesList");
    list_->setAccessibleName(tr("What changed"));
    list_->setWordWrap(true);
    list_->setAlternatingRowColors(true);
    count_->setObjectName("changesCount");
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(since_);
    box->addWidget(list_, 1);
    box->addWidget(count_);
    box->addWidget(buttons);
    look_ = buttons->addButton(tr("Look at it and hear it"), QDialogButtonBox::ActionRole);
    look_->setObjectName("changesLook");
    look_->setCheckable(true);
    look_->setToolTip(tr("Shows and plays that state until you press it again, or F11; nothing is changed"));
    connect(look_, &QPushButton::clicked, this, [this](bool on) {
        session_.lookAt(on ? std::optional(Session::KeptState{since_->currentText(), state()}) : std::nullopt);
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(since_, &QComboBox::activated, this, &ChangesDialog::refresh);
    connect(&session_, &Session::documentChanged, this, &ChangesDialog::refreshStates);
    connect(&session_, &Session::fileChanged, this, &ChangesDialog::refreshStates);
    refreshStates();
}

/// The state that is compared with stays the same while one goes on editing.
void ChangesDialog::refreshStates()
{
    const int was = since_->currentIndex();
    const std::shared_ptr<const Project> chosen =
        was > 0 ? states_[static_cast<std::size_t>(was)] : std::shared_ptr<const Project>();
    const QSignalBlocker quiet(since_);
    since_->clear();
    states_ = {session_.history().saved()};
    since_->addItem(session_.path().empty() ? tr("Since it was begun") : tr("Since the last save"));
    constexpr std::size_t mostSteps = 200;
    for (const History::Earlier& state : session_.history().earlier(mostSteps)) {
        states_.push_back(state.document);
        since_->addItem(tr("Before: %1").arg(QString::fromStdString(state.then)));
    }
    const auto found = std::find(states_.begin() + 1, states_.end(), chosen);
    since_->setCurrentIndex(found != states_.end() ? static_cast<int>(found - states_.begin()) : 0);
    refresh();
}

const std::shared_ptr<const Project>& ChangesDialog::state() const
{
    return states_[static_cast<std::size_t>(std::max(since_->currentIndex(), 0))];
}

void ChangesDialog::refresh()
{
    look_->setChecked(session_.seen().has_value());
    const std::vector<Difference> found = differences(*state(), *session_.history().current());
    list_->clear();
    constexpr std::size_t mostShown = 2'000;
    for (std::size_t i = 0; i < std::min(found.size(), mostShown); ++i) {
        list_->addItem(QString::fromStdString(inWords(found[i])));
    }
    count_->setText(found.empty() ? tr("Nothing is different.")
                                  : tr("%n differences", nullptr, static_cast<int>(found.size())));
}

} // namespace stone
