<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Machines\Disks\ImageOf;
use App\Kinds\RefusedFile;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\NamePattern;

/** Finds the images of a folder by how their names are built. Those of one level and moment are the disks of one set. */
final class ImageNames
{
    public const DEFAULT_PATTERN = '{name}.{disk}.{level}.{stamp}.qcow2';

    /** What a disk is called whose name is not said. */
    public const ONLY_DISK = 'disk';

    /** @var list<RefusedFile> */
    public array $refused = [];

    /** @var non-empty-list<NamePattern> */
    private readonly array $patterns;

    public function __construct(?string $pattern)
    {
        $given = $pattern === null ? [self::DEFAULT_PATTERN, str_replace('{disk}.', '', self::DEFAULT_PATTERN)] : [$pattern];
        $patterns = [];
        foreach ($given as $one) {
            $patterns[] = new NamePattern($one);
            foreach ($pattern === null ? array_keys(ImageOf::FORMATS) : [] as $ending) {
                $ending === 'qcow2' || ($patterns[] = new NamePattern(preg_replace('/qcow2$/', $ending, $one) ?? $one));
            }
        }
        $this->patterns = $patterns;
    }

    /**
     * @param  string  $root  absolute
     * @return list<FoundImage> the oldest first; of one moment a full first
     */
    public function in(string $root): array
    {
        $found = [];
        foreach (scandir($root) ?: [] as $file) {
            $isBeside = preg_match('/\.(set\.json|b2sum|blocks|partial|json)$/', $file) === 1;
            if ($isBeside || is_link("$root/$file") || ! is_file("$root/$file")) {
                continue;
            }
            try {
                $found[] = $this->image($root, $file);
            } catch (InvalidArgumentException $invalid) {
                $this->refused[] = new RefusedFile($file, lcfirst(rtrim($invalid->getMessage(), '.')));
            }
        }
        $key = fn (FoundImage $one): array => [$one->at->microseconds, $one->level->isFull() ? 0 : 1, $one->set, $one->disk];
        usort($found, fn (FoundImage $a, FoundImage $b): int => $key($a) <=> $key($b));

        return $found;
    }

    private function image(string $root, string $file): FoundImage
    {
        foreach ($this->patterns as $pattern) {
            $fields = $pattern->fields($file);
            if ($fields === null) {
                continue;
            }
            $level = Level::of($fields['level'] ?? 'full');
            if ($level->isLog() || $level->isSnapshot()) {
                throw new InvalidArgumentException("an image is a full, a differential or an increment, and not a {$level->name}");
            }
            $disk = $fields['disk'] ?? self::ONLY_DISK;
            $format =
                ImageOf::FORMATS[strtolower(pathinfo($file, PATHINFO_EXTENSION))] ??
                throw new InvalidArgumentException(
                    'images are read as '.implode(', ', array_keys(ImageOf::FORMATS)).'; qemu-img convert makes one of others',
                );
            $name = pathinfo($file, PATHINFO_FILENAME);

            return new FoundImage(
                $file,
                isset($fields['disk']) ? preg_replace('/(^|\.)'.preg_quote($disk, '/').'(?=\.)/', '', $name, 1) ?? $name : $name,
                $disk,
                $format,
                $level,
                NamePattern::moment($fields['stamp'] ?? null, "$root/$file"),
                $fields['history'] ?? '1',
            );
        }
        throw new InvalidArgumentException("its name does not fit the pattern {$this->patterns[0]->pattern}");
    }
}
