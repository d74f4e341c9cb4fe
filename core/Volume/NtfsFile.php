<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A file of NTFS with all of its attributes, wherever their records are. */
final readonly class NtfsFile
{
    /** Of a name: one that was made up for programs that know short ones only. */
    private const SHORT = 2;

    /** @param  list<NtfsAttribute>  $attributes */
    public function __construct(public bool $isFolder, private array $attributes, private NtfsGeometry $geometry)
    {
    }

    /** @return list<NtfsAttribute> */
    private function pieces(int $type, string $name): array
    {
        $isMeant = fn (NtfsAttribute $one): bool => $one->type === $type && $one->name === $name;
        $pieces = array_values(array_filter($this->attributes, $isMeant));
        usort($pieces, fn (NtfsAttribute $a, NtfsAttribute $b): int => $a->first <=> $b->first);

        return $pieces;
    }

    /** Of a short one; null if there is none. */
    public function value(int $type, string $name = ''): ?string
    {
        return $this->pieces($type, $name)[0]->value ?? null;
    }

    /** Its content, or what has a name beside that; null if there is none. */
    public function stream(string $name = '', int $type = NtfsAttribute::DATA): ?NtfsStream
    {
        $pieces = $this->pieces($type, $name);

        return $pieces === [] ? null : new NtfsStream($this->geometry, $pieces);
    }

    /** @return list<string> names of what it has beside its content, UTF-16 */
    public function streamNames(): array
    {
        $names = [];
        foreach ($this->attributes as $one) {
            $one->type !== NtfsAttribute::DATA || $one->name === '' || $names[$one->name] = $one->name;
        }

        return array_values($names);
    }

    /** How many names it has in folders. */
    public function names(): int
    {
        $isName = fn (NtfsAttribute $one): bool => $one->type === NtfsAttribute::FILE_NAME && ord($one->value[65] ?? "\2") !== self::SHORT;

        return count(array_filter($this->attributes, $isName));
    }
}
