<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/**
 * A file with holes as a member of a tar archive: where its pieces belong stands before them (GNU tar's manual, "Storing Sparse Files",
 * PAX format 1.0).
 */
final class SparseMember
{
    /** Bytes that are looked at together: whether they are a hole. */
    private const GRAIN = 4096;

    /** Holes that are shorter are stored. */
    private const LEAST = 1 << 16;

    /** @var list<array{int, int}> from and length, of what is no hole */
    private array $pieces = [];

    private int $at = 0;

    private string $rest = '';

    /** Tells it the content, from the beginning to the end. */
    public function look(string $bytes): void
    {
        $this->rest .= $bytes;
        $whole = strlen($this->rest) - strlen($this->rest) % self::GRAIN;
        for ($i = 0; $i < $whole; $i += self::GRAIN) {
            $this->grain(substr($this->rest, $i, self::GRAIN));
        }
        $this->rest = substr($this->rest, $whole);
    }

    /** Once all of it was told. */
    public function seen(): void
    {
        $this->rest === '' || $this->grain($this->rest);
        $this->rest = '';
        // A file that ends in a hole has an empty piece at its end.
        $end = $this->pieces === [] ? 0 : array_sum($this->pieces[count($this->pieces) - 1]);
        $end === $this->at || $this->pieces[] = [$this->at, 0];
    }

    private function grain(string $bytes): void
    {
        $length = strlen($bytes);
        if (trim($bytes, "\0") !== '') {
            $last = count($this->pieces) - 1;
            if ($last >= 0 && $this->at - array_sum($this->pieces[$last]) < self::LEAST) {
                $this->pieces[$last][1] = $this->at + $length - $this->pieces[$last][0];
            } else {
                $this->pieces[] = [$this->at, $length];
            }
        }
        $this->at += $length;
    }

    /** What stands before the pieces. */
    public function map(): string
    {
        $lines = [count($this->pieces), ...array_merge(...$this->pieces)];
        $text = implode("\n", $lines)."\n";

        return str_pad($text, intdiv(strlen($text) + 511, 512) * 512, "\0");
    }

    /** Bytes that the member holds: the map, and the pieces. */
    public function stored(): int
    {
        return strlen($this->map()) + array_sum(array_column($this->pieces, 1));
    }

    /** @return array<string, string> of the head of the member */
    public function records(string $path): array
    {
        return [
            'GNU.sparse.major' => '1',
            'GNU.sparse.minor' => '0',
            'GNU.sparse.name' => $path,
            'GNU.sparse.realsize' => (string) $this->at,
        ];
    }

    /**
     * What of the content is stored.
     *
     * @param  iterable<string>  $content  the same as was told
     * @return iterable<string>
     */
    public function parts(iterable $content): iterable
    {
        $at = $number = 0;
        foreach ($content as $bytes) {
            $end = $at + strlen($bytes);
            while ($number < count($this->pieces) && $this->pieces[$number][0] < $end) {
                [$from, $length] = $this->pieces[$number];
                $begin = max($from, $at);
                $stop = min($from + $length, $end);
                if ($stop > $begin) {
                    yield substr($bytes, $begin - $at, $stop - $begin);
                }
                if ($from + $length > $end) {
                    break;
                }
                $number++;
            }
            $at = $end;
        }
    }
}
