<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The files of a volume, read and never written. Whatever it says is bounded before it is believed. */
interface FileSystem
{
    /** Such as "ext4". */
    public function type(): string;

    /** As somebody named it; '' for no name. */
    public function label(): string;

    /** @return list<string> what it cannot give as it was, in sentences */
    public function losses(): array;

    public function root(): FoundFile;

    /**
     * What a folder holds.
     *
     * @return iterable<array-key, FoundFile> by name, which is bytes
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function children(FoundFile $folder): iterable;

    /**
     * What has a name in a folder, without looking at what else is in it; null if nothing has.
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function child(FoundFile $folder, string $name): ?FoundFile;

    /**
     * The content of a file, from its beginning.
     *
     * @return iterable<string>
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function content(FoundFile $file): iterable;
}
