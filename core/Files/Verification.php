<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\Internal\SecondProcess;
use SplQueue;

/** Reads what was placed again from the target and compares it with the catalog. */
final class Verification
{
    /** Fewer things are not worth a second process. */
    private const WORTH_TWO = 2000;

    public int $files = 0;

    public int $bytes = 0;

    public int $folders = 0;

    public int $others = 0;

    /** @var list<LeftOut> what is not as it should be */
    public array $differences = [];

    /**
     * By two processes where there is much of it: the second reads the second half, and tells what is not right there.
     *
     * @param  list<LeftOut>  $leftOut
     * @param  callable(string, string, Version): void  $each  told path, place and version of each file that is right
     */
    public function run(RestoreOrder $order, Target $target, Placement $placement, array $leftOut, callable $each, Progress $progress): void
    {
        $absent = [];
        foreach ($leftOut as $left) {
            $absent[$left->path] = true;
        }
        $count = count($order->items);
        $twin = $count < self::WORTH_TWO || ! SecondProcess::isPossible() ? null : $target->twin();
        $half = $twin === null ? $count : intdiv($count, 2);
        $second = $twin === null ? null : SecondProcess::begin(function () use ($order, $twin, $placement, $absent, $half): array {
            $wrong = [];
            $placed = $this->placed($order, $placement, $absent, $half, PHP_INT_MAX);
            foreach ($this->compared($order, $twin, $placed) as [$path, , , $because]) {
                if ($because !== null) {
                    $wrong[$path] = $because;
                }
            }

            return ['wrong' => $wrong];
        });
        $placed = $this->placed($order, $placement, $absent, 0, $second === null ? PHP_INT_MAX : $half);
        foreach ($this->compared($order, $target, $placed) as [$path, $now, $version, $because]) {
            $this->found($path, $now, $version, $because, $each, $progress);
        }
        if ($second === null) {
            return;
        }
        $wrong = $second->result($progress->advanced(...))['wrong'];
        foreach ($this->placed($order, $placement, $absent, $half, PHP_INT_MAX) as $path => [$now, $packed]) {
            $this->found((string) $path, $now, Version::unpack($packed), $wrong[$path] ?? null, $each, $progress);
        }
    }

    /**
     * @param  array<array-key, true>  $absent
     * @return iterable<array-key, array{string, string}> path => where it is now, packed version; of what should be there
     */
    private function placed(RestoreOrder $order, Placement $placement, array $absent, int $from, int $until): iterable
    {
        $at = 0;
        foreach ($order->items as $path => $packed) {
            if ($at >= $until) {
                return;
            }
            if ($at++ < $from || $path === '') {
                continue;
            }
            $now = $placement->whereIs((string) $path);
            if ($now !== null && ! isset($absent[$path]) && ($packed[0] !== 'd' || $placement->wasMade((string) $path))) {
                yield $path => [$now, $packed];
            }
        }
    }

    /** @param  callable(string, string, Version): void  $each */
    private function found(string $path, string $now, Version $version, ?string $because, callable $each, Progress $progress): void
    {
        if ($because !== null) {
            $this->differences[] = new LeftOut($path, $because, true);
        } elseif ($version->kind === EntryKind::File) {
            $this->files++;
            $this->bytes += $version->size;
            $each($path, $now, $version);
            if ($this->files % 200 === 0) {
                $progress->advanced(0, 0);
            }
        } elseif ($version->kind === EntryKind::Folder) {
            $this->folders++;
        } else {
            $this->others++;
        }
    }

    /**
     * @param  iterable<array-key, array{string, string}>  $placed
     * @return iterable<array{string, string, Version, string|null}> path, where it is now, what it should be, and what is wrong with it
     */
    private function compared(RestoreOrder $order, Target $target, iterable $placed): iterable
    {
        $waiting = new SplQueue;
        $asked = (function () use ($placed, $waiting): iterable {
            foreach ($placed as $path => [$now, $packed]) {
                $waiting->enqueue([(string) $path, $now, $packed]);
                yield [$now, ($packed[0] === 'f' ? Seen::DIGEST : 0) | (Version::hasList($packed) ? Seen::ACCESS : 0)];
            }
        })();
        foreach ($target->many($asked) as $seen) {
            [$path, $now, $packed] = $waiting->dequeue();
            $version = Version::unpack($packed);
            yield [$path, $now, $version, $this->compare($order, $target, $seen, $version)];
        }
    }

    private function compare(RestoreOrder $order, Target $target, Seen $seen, Version $version): ?string
    {
        $status = $seen->status;
        if ($status === null) {
            return 'it is not there';
        }
        if ($status->type !== Status::typeOf($version->kind)) {
            return 'it is something else';
        }
        if ($version->kind === EntryKind::Symlink) {
            return $seen->link === $version->linkTarget ? null : 'the link leads elsewhere';
        }
        if ($version->kind === EntryKind::File && $status->size !== $version->size) {
            return "its size is {$status->size}, not {$version->size}";
        }
        if ($version->kind === EntryKind::File && $seen->digest !== $version->digest) {
            return 'its digest differs';
        }
        if ($status->mode !== $order->modeOf($version)) {
            return sprintf('its mode is %04o, not %04o', $status->mode, $order->modeOf($version));
        }
        if ($seen->access !== null && $version->access !== AccessList::NOT_KNOWN && ! PosixAcl::areSame($version->access, $seen->access)) {
            return 'its access list differs';
        }

        $step = $target->timeStep();

        return intdiv($status->mtime, $step) === intdiv($version->mtime, $step) ? null : 'its time differs';
    }
}
