<?php

declare(strict_types=1);

namespace Kaiseki\Core\Estimate;

use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\ReadingList;

/** How long a restore will take, part by part. */
final readonly class RestoreEstimate
{
    /** To begin and to end, whatever the size. */
    private const AROUND = 0.5;

    private function __construct(
        /** The way of a person to the shelf. */
        public DurationRange $fetching,
        /** Of cartridges and the like, before the first byte. */
        public float $setupSeconds,
        public DurationRange $reading,
        /** What each file costs, whatever its size. */
        public DurationRange $files,
        /** Written to the target while it is read, then read again from there. */
        public DurationRange $writing,
        public DurationRange $whole,
        /** @var list<string> cartridges on the shelf, each with its store: STORE/LABEL */
        public array $toFetch,
    ) {
    }

    /** @param  int  $bytes of the selection */
    public static function of(ReadingList $list, int $files, int $bytes, Costs $costs): self
    {
        $reading = DurationRange::none();
        $toFetch = [];
        foreach ($list->readings as $line) {
            $reading = $reading->plus($costs->reading($line->copy->store, $line->seconds));
            if ($line->copy->state === CopyState::Offline) {
                foreach ($line->copy->offline === [] ? $line->copy->media : $line->copy->offline as $medium) {
                    $toFetch["{$line->copy->store}/$medium"] = true;
                }
            }
        }
        $fetching = $costs->fetching(count($toFetch));
        $perFile = $costs->files($files);
        $writing = $costs->writing($bytes);
        // Reading and writing go on at the same time, so the slower of them counts; then everything is read once more.
        $moved = DurationRange::of(
            max($reading->likely, $writing->likely),
            max($reading->least, $writing->least),
            max($reading->most, $writing->most),
        );
        $again = DurationRange::of($writing->likely / 2, $writing->least / 3, $writing->most);
        $around = DurationRange::of(
            self::AROUND + $list->setupSeconds,
            self::AROUND / 2 + $list->setupSeconds * 0.7,
            self::AROUND * 3 + $list->setupSeconds * 1.6,
        );

        return new self(
            $fetching,
            $list->setupSeconds,
            $reading,
            $perFile,
            $writing,
            $moved->plus($again)->plus($perFile)->plus($around)->plus($fetching),
            array_map(strval(...), array_keys($toFetch)),
        );
    }

    /** @return list<string> labels of the cartridges that are to be fetched */
    public function labelsToFetch(): array
    {
        return array_map(fn (string $name): string => substr((string) strrchr($name, '/'), 1), $this->toFetch);
    }
}
