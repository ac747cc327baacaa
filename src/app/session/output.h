// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "device/audio_device.h"

#include <QFutureWatcher>
#include <QObject>
#include <QStringList>
#include <QTimer>

#include <functional>
#include <memory>

namespace stone
{

/// The output that a live engine plays through: opened, replaced by the clock when it goes away, looked for until it is there
/// again. Window thread only.
class Output : public QObject
{
    Q_OBJECT

public:
    /// Opens an output by its name as listed by outputs(); empty: the usual one. Throws std::runtime_error.
    using Open = std::function<std::unique_ptr<AudioDevice>(const QString& name, int rate, unsigned channels)>;
    /// Whether an output is there, by its name; empty: any. Asked on another thread.
    using Find = std::function<bool(const QString& name)>;

    Output(Open open, QObject* parent);
    ~Output() override;

    bool isOpen() const { return device_ != nullptr; }
    bool audible() const { return device_ && device_->audible(); }
    AudioDevice* device() const { return device_.get(); }
    /// The name under which the running output is known, with what it is.
    QString name() const { return device_ ? QString::fromStdString(device_->name()) : QString(); }

    void setFind(Find find) { find_ = std::move(find); }
    /// For the next open().
    void choose(const QString& name);
    const QString& chosen() const { return chosen_; }
    /// Plays an engine through what was chosen or, where that cannot be opened, the clock. The engine must outlive this, or
    /// close().
    void open(Played& played);
    /// Engine and device stand still; nothing is looked for.
    void close();
    /// Goes on without sound where the output has stopped answering.
    void watch();

signals:
    /// Engine and device stand still, be it for a moment.
    void closed();
    /// Another output plays than before, by itself.
    void changed();
    /// The output is gone or could not be opened: one line for the person, who may choose another.
    void failed(const QString& message);
    /// An output that was gone is there again, and plays.
    void back(const QString& name);

private:
    bool openNamed(const QString& name);
    QString tryNamed(const QString& name);
    void stop();
    void lookForIt();
    void comeBack();

    Open open_;
    Find find_;
    Played* played_ = nullptr; ///< null: closed
    std::unique_ptr<AudioDevice> device_;
    QString chosen_;
    QTimer lookAgain_; ///< runs while the output that was chosen is gone
    QFutureWatcher<bool> seen_;
};

/// Outputs that can be chosen: sound cards by name, then the clock. And how they are opened.
QStringList outputs();
bool outputIsThere(const QString& name);
std::unique_ptr<AudioDevice> openOutput(const QString& name, int rate, unsigned channels);

} // namespace stone
