// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/film_dialog.h"

#include "app/eyes/eyes_view.h"
#include "app/theme/theme.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QVBoxLayout>

namespace stone
{

FilmDialog::FilmDialog(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent), session_(session), playback_(playback), of_(new QComboBox), size_(new QComboBox), rate_(new QComboBox),
      words_(new QLabel), progress_(new QProgressBar)
{
    setObjectName("filmDialog");
    setWindowTitle(tr("A film of the take"));
    resize(430, sizeHint().height());
    of_->setObjectName("filmOf");
    of_->addItem(tr("the Plan, all of it"), static_cast<int>(Film::Of::plan));
    if (EyesView::available()) {
        of_->addItem(tr("the walk-through view"), static_cast<int>(Film::Of::walkThrough));
    }
    size_->setObjectName("filmSize");
    for (const QSize size : {QSize(1280, 720), QSize(1920, 1080), QSize(854, 480), QSize(640, 360)}) {
        size_->addItem(tr("%1 x %2").arg(size.width()).arg(size.height()), size);
    }
    rate_->setObjectName("filmRate");
    for (const int rate : {30, 60, 25, 15}) {
        rate_->addItem(tr("%1 pictures a second").arg(rate), rate);
    }
    words_->setObjectName("filmWords");
    words_->setWordWrap(true);
    progress_->setObjectName("filmProgress");
    progress_->hide();
    auto* form = new QFormLayout;
    form->addRow(tr("Shows"), of_);
    form->addRow(tr("Size"), size_);
    form->addRow(tr("Speed"), rate_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    make_ = buttons->addButton(tr("Make it…"), QDialogButtonBox::ActionRole);
    make_->setObjectName("filmMake");
    make_->setDefault(true);
    auto* box = new QVBoxLayout(this);
    box->addLayout(form);
    box->addWidget(words_);
    box->addWidget(progress_);
    box->addWidget(buttons);
    connect(make_, &QPushButton::clicked, this, &FilmDialog::askWhere);
    connect(buttons, &QDialogButtonBox::rejected, this, [this] {
        if (maker_ != nullptr) {
            maker_->stop();
        } else {
            reject();
        }
    });
    refresh();
}

void FilmDialog::refresh()
{
    const bool idle = maker_ == nullptr;
    const auto& take = playback_.takes().take();
    const bool can = idle && take && !FilmMaker::program().isEmpty();
    for (QWidget* widget : {static_cast<QWidget*>(of_), static_cast<QWidget*>(size_), static_cast<QWidget*>(rate_)}) {
        widget->setEnabled(idle);
    }
    make_->setEnabled(can);
    progress_->setVisible(!idle);
    words_->setText(!take ? tr("Choose a take first.")
                    : FilmMaker::program().isEmpty()
                        ? tr("A film is put together by the program ffmpeg, which is not installed. Install it (on Debian the "
                             "package ffmpeg) and open this again.")
                    : !idle ? tr("The window goes along with the film; leave the take alone until it is done.")
                            : tr("%1 of %2, %3.")
                                  .arg(theme::clock(take->seconds()), QString::fromStdString(take->path().stem().string()),
                                       take->hasSound() ? tr("with its sound") : tr("without sound: none was kept")));
}

void FilmDialog::askWhere()
{
    const QString name = QString::fromStdString(playback_.takes().take()->path().stem().string());
    const QString file = QFileDialog::getSaveFileName(
        this, tr("A film of the take"), QString::fromStdString((session_.folder() / (name.toStdString() + ".mp4")).string()),
        tr("Film (*.mp4)"));
    if (!file.isEmpty()) {
        make(file);
    }
}

void FilmDialog::make(const QString& file)
{
    maker_ = new FilmMaker(
        session_, playback_,
        {static_cast<Film::Of>(of_->currentData().toInt()), size_->currentData().toSize(), rate_->currentData().toInt(), file},
        this);
    connect(maker_, &FilmMaker::progressed, progress_, &QProgressBar::setValue);
    connect(maker_, &FilmMaker::done, this, [this, file](const QString& problem) {
        maker_->deleteLater();
        maker_ = nullptr;
        refresh();
        if (problem.isEmpty()) {
            emit made(tr("The film is in %1.").arg(file), file);
            accept();
        } else {
            words_->setText(problem);
        }
    });
    progress_->setValue(0);
    maker_->begin();
    refresh();
}

} // namespace stone
