#pragma once
// How bodies meet: the library's way, asked only where a quick look has not shown that two are apart, and by several threads.
#include <BulletCollision/CollisionDispatch/btCollisionDispatcher.h>
#include <BulletCollision/CollisionDispatch/btDefaultCollisionConfiguration.h>

#include <map>
#include <memory>
#include <mutex>

namespace seedloom {

/// Finds the contacts of one world. The same for any number of threads: contacts are told in the order of the bodies.
class Meetings : public btCollisionDispatcher {
public:
    /// The configuration must have been made with `room`.
    explicit Meetings(btCollisionConfiguration& configuration);
    ~Meetings() override;
    static btDefaultCollisionConstructionInfo room();

    /// What will press on what, by two bodies' numbers: contacts that are found next begin with their part of it.
    using Impulses = std::map<std::pair<int, int>, double>;
    void expect(Impulses impulses) { expected_ = std::move(impulses); }
    /// What pressed on what in the step before.
    Impulses impulses() const;

    void dispatchAllCollisionPairs(btOverlappingPairCache* pairs, const btDispatcherInfo& info, btDispatcher* dispatcher) override;
    btPersistentManifold* getNewManifold(const btCollisionObject* a, const btCollisionObject* b) override;
    void releaseManifold(btPersistentManifold* touching) override;
    void* allocateCollisionAlgorithm(int size) override;
    void freeCollisionAlgorithm(void* meeting) override;

private:
    void putInOrder();
    void shareOut();

    struct Makers;
    std::unique_ptr<Makers> makers_;
    std::mutex pools_;
    Impulses expected_;
    bool changed_ = false;  ///< which bodies touch
};

}  // namespace seedloom
