// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/work_pool.h"

#include <QCoreApplication>
#include <QThreadPool>

#include <algorithm>

namespace stone
{

namespace
{

constexpr int leastThreads = 8;

struct Pool {
    QThreadPool threads;

    Pool()
    {
        threads.setMaxThreadCount(std::max(leastThreads, QThread::idealThreadCount()));
        // Nothing of ours outlives the application, as with Qt's pool.
        qAddPostRoutine([] { workPool().waitForDone(); });
    }
};

} // namespace

QThreadPool& workPool()
{
    static Pool pool;
    return pool.threads;
}

} // namespace stone
