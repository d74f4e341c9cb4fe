<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/** Reads what was placed again from the target and compares it with the catalog. */
final class Verification
{
    public int $files = 0;

    public int $bytes = 0;

    public int $folders = 0;

    public int $others = 0;

    /** @var list<LeftOut> what is not as it should be */
    public array $differences = [];

    /**
     * @param  list<LeftOut>  $leftOut
     * @param  callable(string, string, Version): void  $each  told path, place and version of each file that is right
     */
    public function run(RestoreOrder $order, Target $target, Placement $placement, array $leftOut, callable $each, Progress $progress): void
    {
        $absent = [];
        foreach ($leftOut as $left) {
            $absent[$left->path] = true;
        }
        foreach ($order->items as $path => $packed) {
            $path = (string) $path;
            $now = $path === '' ? null : $placement->whereIs($path);
            if ($now === null || isset($absent[$path]) || ($packed[0] === 'd' && ! $placement->wasMade($path))) {
                continue;
            }
            $version = Version::unpack($packed);
            $because = $this->compare($order, $target, $now, $version);
            if ($because !== null) {
                $this->differences[] = new LeftOut($path, $because, true);

                continue;
            }
            if ($version->kind === EntryKind::File) {
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
    }

    private function compare(RestoreOrder $order, Target $target, string $now, Version $version): ?string
    {
        $status = $target->status($now);
        if ($status === null) {
            return 'it is not there';
        }
        if ($status->type !== Status::typeOf($version->kind)) {
            return 'it is something else';
        }
        if ($version->kind === EntryKind::Symlink) {
            return $target->readLink($now) === $version->linkTarget ? null : 'the link leads elsewhere';
        }
        if ($version->kind === EntryKind::File && $status->size !== $version->size) {
            return "its size is {$status->size}, not {$version->size}";
        }
        if ($version->kind === EntryKind::File && $target->digest($now) !== $version->digest) {
            return 'its digest differs';
        }
        if ($status->mode !== $order->modeOf($version)) {
            return sprintf('its mode is %04o, not %04o', $status->mode, $order->modeOf($version));
        }

        $step = $target->timeStep();

        return intdiv($status->mtime, $step) === intdiv($version->mtime, $step) ? null : 'its time differs';
    }
}
