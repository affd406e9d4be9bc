#pragma once
// Calls the interface thread from any other. It goes through the kernel instead of through a posted event, so that nothing is
// allocated on one thread and freed on the other, and a thread sanitizer sees the order.
#include <QtCore/QObject>
#include <QtCore/QSocketNotifier>

namespace seedloom::app {

class Doorbell : public QObject {
    Q_OBJECT

public:
    /// Throws std::runtime_error where the system has no handle left.
    explicit Doorbell(QObject* parent = nullptr);
    ~Doorbell() override;
    /// rung() follows on the thread of this object; once for many calls in a row.
    void ring();

Q_SIGNALS:
    void rung();

private:
    int handle_;
    QSocketNotifier notifier_;
};

}  // namespace seedloom::app
