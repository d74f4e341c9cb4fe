<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\Version;

/**
 * Gives what stands in a target the permissions of an order, and nothing else: no archive is read. How each was is in the journal before
 * it is changed, so this can be repeated after a crash.
 */
final class PermissionRun
{
    private const TOGETHER = 500;

    /** How many were given others, and how many had the same. */
    public int $given = 0;

    public int $same = 0;

    /** @var list<LeftOut> */
    public array $leftOut = [];

    /** @var list<LeftOut> what is not as it should be when it is looked at again */
    public array $differences = [];

    /** @var array<array-key, true> paths of which the journal has how they were */
    private array $noted = [];

    private readonly Owners $owners;

    public function __construct(
        private readonly RestoreOrder $order,
        private readonly Target $target,
        private readonly Journal $journal,
    ) {
        $this->owners = $target->owners();
        foreach (Journal::read($journal->path) as $line) {
            if ($line[0] === Journal::PERMITTED) {
                $this->noted[$line[1]] = true;
            }
        }
    }

    /** @throws UnableToRestore if nothing can be changed there at all, or if it is to stop */
    public function give(Progress $progress): void
    {
        foreach ($this->asked() as $path => [, $asked]) {
            $path = (string) $path;
            if ($asked->toGive === null || $asked->present === null) {
                $this->leftOut[] = new LeftOut($path, (string) $asked->refusal, $asked->isLoss);

                continue;
            }
            if ($asked->keepsList) {
                $this->leftOut[] = new LeftOut($path, 'it '.AskedPermissions::KEEPS_LIST, false);
            }
            if ($asked->areGiven()) {
                isset($this->noted[$path]) ? $this->given++ : $this->same++;
            } else {
                $this->giveOne($path, $asked->present, $asked->toGive);
            }
            $progress->advanced(1, 0);
        }
        $this->target->sync();
        Journal::holds($this->journal->path, Journal::FINISHED) || $this->journal->add(Journal::FINISHED);
    }

    private function giveOne(string $path, Permissions $present, Permissions $toGive): void
    {
        isset($this->noted[$path]) || $this->journal->permitted($path, $present);
        try {
            $this->target->permit($path, $toGive, $this->owners->mayGiveAway);
            $this->given++;
        } catch (UnableToRestore $failure) {
            if ($failure->targetIsUnfit) {
                throw $failure;
            }
            $this->leftOut[] = new LeftOut($path, $failure->getMessage(), true);

            return;
        }
        $without = AccessLists::withoutUnknown((string) $toGive->access);
        if ($without !== null) {
            $this->leftOut[] = new LeftOut($path, $without, false);
        }
    }

    /**
     * Looks at all of it again.
     *
     * @param  callable(string, Version): void  $each  told each thing that is right
     */
    public function verify(callable $each): void
    {
        $lost = array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss);
        $absent = array_fill_keys(array_map(fn (LeftOut $left): string => $left->path, $lost), true);
        foreach ($this->asked() as $path => [$version, $asked]) {
            $path = (string) $path;
            if ($asked->areGiven()) {
                $each($path, $version);
            } elseif ($asked->toGive !== null && ! isset($absent[$path])) {
                $this->differences[] = new LeftOut($path, implode('; ', $asked->changes()).' was ordered', true);
            }
        }
    }

    /** @return iterable<array-key, array{Version, AskedPermissions}> by path; a folder after what is in it, since it may shut us out */
    private function asked(): iterable
    {
        foreach (array_chunk(array_reverse($this->order->items, true), self::TOGETHER, true) as $batch) {
            $paths = array_map(fn (int|string $path): array => [(string) $path, Seen::ACCESS], array_keys($batch));
            foreach ($this->target->many($paths) as $seen) {
                $version = Version::unpack($batch[$seen->path]);
                if (RestoreOrder::leftOut($seen->path, $version) === null) {
                    yield $seen->path => [$version, new AskedPermissions($version, $seen, $this->owners, $this->order->knowsLists)];
                }
            }
        }
    }
}
