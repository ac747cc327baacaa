// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/strata_panel.h"

#include "app/theme/labels.h"
#include "app/widgets/name_chooser.h"
#include "takes/take_series.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

StrataPanel::StrataPanel(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), desk_(playback.takes()), record_(new QPushButton),
      play_(new QToolButton), swap_(new QToolButton), more_(new QToolButton), take_(new NameChooser), other_(new NameChooser),
      by_(new QComboBox), compare_(new QPushButton(tr("differences"))), now_(new QLabel), view_(new StrataView(session, desk_))
{
    setObjectName("strataPanel");
    record_->setObjectName("recordTake");
    record_->setToolTip(tr("Records what is heard: who, how loudly, why; press it again to end. Kept beside the project"));
    more_->setObjectName("takeMenu");
    more_->setText(QStringLiteral("⋯"));
    more_->setAccessibleName(tr("More about takes"));
    more_->setPopupMode(QToolButton::InstantPopup);
    more_->setMenu(new QMenu(more_));
    connect(more_->menu(), &QMenu::aboutToShow, this, &StrataPanel::fillMenu);
    for (QComboBox* chooser : {take_, other_}) {
        // However long a take's name is, the window stays as wide as it is.
        chooser->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        chooser->setMinimumWidth(96);
    }
    take_->setObjectName("takeChosen");
    other_->setObjectName("takeAgainst");
    by_->setObjectName("strataBy");
    by_->addItems({tr("sounds"), tr("families"), tr("rooms")});
    by_->setAccessibleName(tr("Layers"));
    by_->setToolTip(tr("What each layer is of"));
    play_->setObjectName("takePlay");
    play_->setText(QStringLiteral("▶"));
    play_->setCheckable(true);
    play_->setAccessibleName(tr("Play the take"));
    play_->setToolTip(tr("Plays the take's sound from the line on, or stops it (Space)"));
    constexpr int narrow_px = 34;
    for (QToolButton* button : {play_, swap_}) {
        button->setFixedWidth(narrow_px);
    }
    swap_->setObjectName("takeSwap");
    swap_->setText(QStringLiteral("⇅"));
    swap_->setCheckable(true);
    swap_->setAccessibleName(tr("Hear the other take"));
    swap_->setToolTip(tr("Hears the other take at the same moment, and back (Shift+X)"));
    compare_->setObjectName("takeCompare");
    compare_->setProperty("link", true);
    compare_->setToolTip(tr("What was changed between the two, and what that did"));
    now_->setFont(theme::number(9, QFont::Bold));
    now_->setMinimumWidth(50);
    take_->setAccessibleName(tr("Take"));
    auto* row = new QHBoxLayout;
    row->setContentsMargins(10, 4, 8, 0);
    row->setSpacing(6);
    row->addWidget(record_);
    row->addWidget(play_);
    row->addWidget(now_);
    row->addWidget(take_, 1);
    row->addWidget(theme::caption(tr("against"), other_));
    row->addWidget(other_, 1);
    row->addWidget(swap_);
    row->addWidget(compare_);
    row->addWidget(by_);
    row->addWidget(more_);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    box->addLayout(row);
    box->addWidget(view_, 1);
    connect(record_, &QPushButton::clicked, this, [this] { desk_.setRecording(!desk_.recording()); });
    const auto tell = [this](const QString& problem) {
        if (!problem.isEmpty()) {
            emit said(problem);
        }
    };
    connect(take_, &QComboBox::activated, this, [this, tell](int index) {
        const QString path = take_->itemData(index).toString();
        path.isEmpty() ? desk_.close() : tell(desk_.open(path.toStdString()));
    });
    connect(other_, &QComboBox::activated, this,
            [this, tell](int index) { tell(desk_.compareWith(other_->itemData(index).toString().toStdString())); });
    connect(by_, &QComboBox::activated, this, [this](int index) { view_->layBy(static_cast<TakeLayers::By>(index)); });
    connect(compare_, &QPushButton::clicked, this, &StrataPanel::comparisonWanted);
    connect(play_, &QToolButton::clicked, this, [this](bool on) { desk_.setPlaying(on); });
    connect(swap_, &QToolButton::clicked, this, [this](bool on) { desk_.hearOther(on); });
    connect(&desk_, &TakeDesk::playingChanged, this, &StrataPanel::refreshRecording);
    connect(&desk_, &TakeDesk::shelfChanged, this, &StrataPanel::refreshShelf);
    connect(&desk_, &TakeDesk::takeChanged, this, &StrataPanel::refreshShelf);
    connect(&desk_, &TakeDesk::recordingChanged, this, &StrataPanel::refreshRecording);
    connect(&desk_, &TakeDesk::cursorMoved, this, &StrataPanel::refreshRecording);
    connect(&desk_, &TakeDesk::failed, this, &StrataPanel::said);
    connect(&playback_, &Playback::ticked, this, [this] {
        if (desk_.recording()) {
            now_->setText(theme::clock(desk_.recorded_s()));
        }
    });
    connect(view_, &StrataView::emitterChosen, this, [this](const EmitterId& id) {
        if (session_.level().emitters.find(id) != nullptr) {
            session_.selectOnly(id);
        }
    });
    refreshShelf();
    refreshRecording();
}

void StrataPanel::offer(QComboBox* chooser, const QString& none, const std::vector<TakeDesk::Kept>& shelf,
                        const std::shared_ptr<const Take>& chosen)
{
    const QSignalBlocker quiet(chooser);
    chooser->clear();
    chooser->addItem(none, QString());
    for (const TakeDesk::Kept& kept : shelf) {
        // Its name comes first, and by itself: a narrow chooser shows no more.
        const QString walk = QString::fromStdString(kept.info.walk);
        QString text = kept.name + QStringLiteral("  ·  ") + theme::clock(kept.info.seconds);
        text += walk.isEmpty() ? QString() : QStringLiteral(" · ") + walk;
        if (!kept.info.note.empty()) {
            text += QStringLiteral(" · ") + QString::fromStdString(kept.info.note);
        }
        chooser->addItem(text, QString::fromStdString(kept.path.string()));
    }
    chooser->setCurrentIndex(chosen ? std::max(chooser->findData(QString::fromStdString(chosen->path().string())), 0) : 0);
}

void StrataPanel::refreshShelf()
{
    offer(take_, desk_.shelf().empty() ? tr("none yet") : tr("choose one"), desk_.shelf(), desk_.take());
    offer(other_, tr("nothing"), desk_.shelf(), desk_.other());
    other_->setEnabled(desk_.take() != nullptr && desk_.shelf().size() > 1);
    compare_->setEnabled(desk_.take() && desk_.other());
    refreshRecording();
}

void StrataPanel::refreshRecording()
{
    play_->setEnabled(desk_.take() != nullptr);
    play_->setChecked(desk_.playing());
    play_->setText(desk_.playing() ? QStringLiteral("■") : QStringLiteral("▶"));
    swap_->setEnabled(desk_.other() != nullptr);
    swap_->setChecked(desk_.hearsOther());
    record_->setText(desk_.recording() ? tr("■ End it") : tr("● Record"));
    now_->setText(desk_.recording() ? theme::clock(desk_.recorded_s())
                  : desk_.take()    ? theme::clock(desk_.cursor_s())
                                    : QString());
    view_->update();
}

void StrataPanel::fillMenu()
{
    QMenu* menu = more_->menu();
    menu->clear();
    menu->addAction(tr("Record the walk from its beginning"), this, [this] { desk_.setRecording(true, true); })
        ->setEnabled(!desk_.recording() && !playback_.walk().empty());
    menu->addSeparator();
    const bool any = desk_.take() != nullptr;
    QMenu* found = menu->addMenu(any ? tr("What to listen to · %1").arg(desk_.findings().size()) : tr("What to listen to"));
    found->setEnabled(!desk_.findings().empty());
    constexpr std::size_t mostListed = 25;
    for (std::size_t i = 0; i < std::min(desk_.findings().size(), mostListed); ++i) {
        const TakeFinding& finding = desk_.findings()[i];
        found->addAction(theme::clock(finding.t_s) + "  " + QString::fromStdString(finding.what), this,
                         [this, t_s = finding.t_s, id = finding.emitter] {
                             desk_.setCursor(t_s);
                             if (session_.level().emitters.find(id) != nullptr) {
                                 session_.selectOnly(id);
                             }
                         });
    }
    menu->addAction(tr("Add a strip…"), this, &StrataPanel::addStrip)->setEnabled(any);
    menu->addAction(tr("Rename the take…"), this, &StrataPanel::renameTake)->setEnabled(any);
    menu->addAction(tr("Throw the take away…"), this, &StrataPanel::removeTake)->setEnabled(any);
    menu->addAction(tr("Back to what is heard now"), this, [this] { desk_.close(); })->setEnabled(any);
}

void StrataPanel::renameTake()
{
    const std::filesystem::path path = desk_.take()->path();
    const QString name = QInputDialog::getText(this, tr("Rename the take"), tr("Name"), QLineEdit::Normal,
                                               QString::fromStdString(path.stem().string()));
    if (!name.isEmpty()) {
        if (const QString problem = desk_.rename(path, name); !problem.isEmpty()) {
            emit said(problem);
        }
    }
}

void StrataPanel::removeTake()
{
    const std::filesystem::path path = desk_.take()->path();
    const QString name = QString::fromStdString(path.stem().string());
    if (QMessageBox::question(this, tr("Throw the take away"),
                              tr("%1 is taken off the disk for good. The project stays as it is.").arg(name),
                              QMessageBox::Discard | QMessageBox::Cancel) == QMessageBox::Discard) {
        if (const QString problem = desk_.remove(path); !problem.isEmpty()) {
            emit said(problem);
        }
    }
}

/// Any value of the selected emitter, or of all together.
void StrataPanel::addStrip()
{
    QStringList what;
    for (const std::string& name : seriesNames()) {
        what << QString::fromStdString(name);
    }
    for (std::size_t kind = 0; kind < termKinds; ++kind) {
        what << QString::fromUtf8(termName(static_cast<TermKind>(kind)));
    }
    for (const Take::Named& value : desk_.take()->values()) {
        what << QString::fromStdString(value.name);
    }
    const Emitter* selected = session_.primary();
    const QString of = selected != nullptr ? QString::fromStdString(selected->name) : QString();
    bool chosen = false;
    const QString wanted = QInputDialog::getItem(
        this, tr("Add a strip"), of.isEmpty() ? tr("Of all together (select an emitter for its own)") : tr("Of %1").arg(of),
        what, 0, false, &chosen);
    if (chosen) {
        if (const QString problem = view_->addStrip(wanted, of); !problem.isEmpty()) {
            emit said(problem);
        }
    }
}

} // namespace stone
