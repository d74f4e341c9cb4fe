<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use Closure;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\TreeRecord;

/** Makes the contents that a medium fetches, piece by piece, no faster than it takes them. */
abstract class Contents
{
    /** @var array<string, TreeRecord> volume => what lies on it then */
    public array $records = [];

    /** @var array<string, string> volume => SHA-256 of it then */
    public array $sums = [];

    /** Whether a machine id was left empty. */
    public bool $isRenewed = false;

    /** Things of file systems that no archive of ours stores. */
    public int $leftOut = 0;

    public function __construct(protected readonly Sending $to)
    {
    }

    abstract public function make(OrderedContent $content): void;

    protected function bytes(OrderedContent $content, string $bytes): void
    {
        $this->to->put($content->number, 0, $bytes);
        $this->to->put($content->number, 1, null);
    }

    /** @param  Closure(resource, Closure(): void): void  $write  what writes it, telling now and then that it may be taken */
    protected function pour(OrderedContent $content, Closure $write): void
    {
        $pipe = fopen('php://temp/maxmemory:'.(4 * Exchange::PIECE), 'w+b') ?: throw CannotBring::because('There is no room to pack it.');
        $piece = 0;
        $take = function (int $least) use ($content, $pipe, &$piece): void {
            while (ftell($pipe) >= $least && ftell($pipe) > 0) {
                rewind($pipe);
                $this->to->put($content->number, $piece++, (string) fread($pipe, Exchange::PIECE));
                $rest = (string) stream_get_contents($pipe);
                rewind($pipe);
                ftruncate($pipe, 0);
                fwrite($pipe, $rest);
            }
        };
        $write($pipe, fn () => $take(Exchange::PIECE));
        $take(1);
        $this->to->put($content->number, $piece, null);
        fclose($pipe);
    }

    protected function image(OrderedContent $content): void
    {
        $this->pour($content, function ($pipe, Closure $drain) use ($content): void {
            $packed = new GzipMemberWriter($pipe, PHP_INT_MAX, 1);
            $hash = hash_init('sha256');
            foreach ($this->to->source->image($content->place()->key, $content->place()->was) as $bytes) {
                hash_update($hash, $bytes);
                $packed->write($bytes);
                $this->to->progress->advanced(0, strlen($bytes));
                $drain();
            }
            $packed->finish();
            $this->sums[$content->place()->key] = hash_final($hash);
        });
    }

    /**
     * What is to lie on a volume, sent by something that tells whether things of it were left out.
     *
     * @param  Closure(SentTree, GzipMemberWriter, Closure(int, int): void): int  $send
     */
    protected function files(OrderedContent $content, Closure $send): void
    {
        $this->pour($content, function ($pipe, Closure $drain) use ($content, $send): void {
            $tree = $this->to->tree($content->place()->key);
            $advanced = function (int $files, int $bytes) use ($drain): void {
                $this->to->progress->advanced($files, $bytes);
                $drain();
            };
            $this->leftOut += $send($tree, new GzipMemberWriter($pipe, PHP_INT_MAX, 1), $advanced);
            $this->isRenewed = $this->isRenewed || ($tree instanceof RenewedTree && $tree->isRenewed);
        });
    }

    /** For what will lie on a volume. */
    protected function record(OrderedContent $content): TreeRecord
    {
        return $this->records[$content->place()->key] = new TreeRecord($this->to->exchange->record($content->number));
    }
}
