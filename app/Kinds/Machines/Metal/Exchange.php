<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Line\LineKey;
use App\Models\Run;
use App\Runs\RunFiles;
use Illuminate\Support\Facades\File;
use Kaiseki\Core\Metal\OrderedContent;

/**
 * What a run and its medium hand each other, through a folder of the run: orders, pieces of contents, what is read back, and how far
 * it is. The run writes what the medium fetches, and the pages' process what the medium says.
 */
final readonly class Exchange
{
    /** Bytes of a piece of a content. */
    public const PIECE = 8 << 20;

    /** Pieces that wait to be fetched. */
    private const AHEAD = 6;

    private const STATEMENT = 192;

    /** Bytes that a medium may send of one list. */
    private const LARGEST_LIST = 8 << 30;

    private function __construct(private string $folder)
    {
    }

    public static function of(Run $run): self
    {
        return new self(RunFiles::folder($run).'/metal');
    }

    /** Anew: nothing of a run that was begun before is left. */
    public function begin(): void
    {
        File::deleteDirectory($this->folder);
        foreach (['content', 'listing'] as $folder) {
            File::makeDirectory("$this->folder/$folder", 0700, true);
        }
    }

    public function isBegun(): bool
    {
        return is_dir("$this->folder/listing");
    }

    /** Nothing of its contents is kept, but what the medium said. */
    public function keepTold(): void
    {
        foreach (['content', 'listing'] as $folder) {
            File::deleteDirectory("$this->folder/$folder");
        }
        File::delete([...glob("$this->folder/record.*") ?: [], ...glob("$this->folder/orders*") ?: []]);
    }

    public function order(string $text): void
    {
        file_put_contents("$this->folder/orders.sig", LineKey::sign($text));
        file_put_contents("$this->folder/orders.new", $text);
        rename("$this->folder/orders.new", "$this->folder/orders");
    }

    /** Null while there are none. */
    public function orders(string $suffix = ''): ?string
    {
        return is_file("$this->folder/orders") ? (string) file_get_contents("$this->folder/orders$suffix") : null;
    }

    /** @param  string  $token  as orders have it */
    public function put(string $token, int $content, int $piece, ?string $bytes): void
    {
        $digest = $bytes === null ? 'end' : hash('sha256', $bytes);
        $statement = str_pad("kaiseki-piece $token $content $piece $digest", self::STATEMENT);
        $file = $this->piece($content, $piece);
        file_put_contents("$file.new", LineKey::sign($statement).$statement.$bytes);
        rename("$file.new", $file);
    }

    /** Whether the medium took so much that more can be made. */
    public function hasRoom(int $content, int $piece): bool
    {
        [$atContent, $atPiece] = $this->asked();

        return $content === $atContent ? $piece - $atPiece < self::AHEAD : count(glob("$this->folder/content/*") ?: []) < self::AHEAD;
    }

    /** @return array{int, int} content and piece that were asked for last */
    public function asked(): array
    {
        $said = explode(' ', (string) @file_get_contents("$this->folder/asked"));

        return [(int) $said[0], (int) ($said[1] ?? 0)];
    }

    /** A file to be sent; null while there is none. What was asked for before it is not needed any more. */
    public function fetch(int $content, int $piece): ?string
    {
        file_put_contents("$this->folder/asked", "$content $piece");
        foreach (glob("$this->folder/content/*") ?: [] as $file) {
            [$of, $number] = array_map(intval(...), explode('.', basename($file)));
            if (! str_ends_with($file, '.new') && ($of < $content || ($of === $content && $number < $piece))) {
                @unlink($file);
            }
        }
        $file = $this->piece($content, $piece);

        return is_file($file) ? $file : null;
    }

    /** @return bool whether it is taken: pieces come one after the other, and one that came already comes to nothing */
    public function take(int $listing, string $part, int $piece, string $bytes): bool
    {
        $file = "$this->folder/listing/$listing.$part";
        if ($listing >= preg_match_all('/^(list|sum) /m', $this->orders() ?? '')) {
            return false; // nobody asked for it
        }
        $have = (int) @file_get_contents("$file.pieces");
        if ($piece < $have) {
            return true;
        }
        if ($piece > $have || (is_file($file) && filesize($file) + strlen($bytes) > self::LARGEST_LIST)) {
            return false;
        }
        file_put_contents($file, $bytes, $piece === 0 ? 0 : FILE_APPEND);
        file_put_contents("$file.pieces", (string) ($piece + 1));

        return true;
    }

    /** How many lists and sums the medium told to their end. */
    public function listed(): int
    {
        return count(array_filter($this->told(), fn (array $told): bool => in_array($told['step'], ['list', 'sum'], true)));
    }

    /** @return resource of what was read back; empty if nothing was */
    public function listing(OrderedContent $of, string $part)
    {
        $file = "$this->folder/listing/{$of->number}.$part";
        is_file($file) || touch($file);

        return fopen($file, 'rb') ?: throw CannotMakeMedium::because("$file cannot be read.");
    }

    /** @return resource for the record of what was sent */
    public function record(int $content)
    {
        return fopen("$this->folder/record.$content", 'w+b') ?: throw CannotMakeMedium::because('The record cannot be written.');
    }

    public function tell(string $step, string $what): void
    {
        $line = json_encode(['at' => microtime(true), 'step' => $step, 'what' => mb_scrub($what)], JSON_INVALID_UTF8_SUBSTITUTE);
        file_put_contents("$this->folder/told", "$line\n", FILE_APPEND | LOCK_EX);
    }

    /** @return list<array{at: float, step: string, what: string}> */
    public function told(): array
    {
        $told = [];
        foreach (is_file("$this->folder/told") ? (file("$this->folder/told", FILE_IGNORE_NEW_LINES) ?: []) : [] as $line) {
            $said = json_decode($line, true);
            if (is_array($said)) {
                $told[] = ['at' => (float) $said['at'], 'step' => (string) $said['step'], 'what' => (string) $said['what']];
            }
        }

        return $told;
    }

    private function piece(int $content, int $piece): string
    {
        return "$this->folder/content/$content.$piece";
    }
}
