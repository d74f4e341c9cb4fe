<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Runs\RunProgress;
use Closure;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Metal\GroupHead;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Metal\TreeRecord;
use Kaiseki\Core\Metal\TreeSender;

/** Makes the contents that a medium fetches, piece by piece, no faster than it takes them. */
final class ContentMaker
{
    /** @var array<string, TreeRecord> volume => what was sent of it */
    public array $records = [];

    /** @var array<string, string> volume => SHA-256 of what was sent of it */
    public array $sums = [];

    /** Whether a machine id was left empty. */
    public bool $isRenewed = false;

    /** Things of file systems that no archive of ours stores. */
    public int $leftOut = 0;

    /**
     * @param  string  $token  as orders have it
     * @param  Closure(): void  $wait  called while the medium has not taken enough; throws if that has no end
     * @param  bool  $renewsId  whether the machine's id is left empty
     */
    public function __construct(
        private readonly LayoutPlan $plan,
        private readonly MetalSource $source,
        private readonly Exchange $exchange,
        private readonly string $token,
        private readonly RunProgress $progress,
        private readonly Closure $wait,
        private readonly bool $renewsId = false,
    ) {
    }

    public function make(OrderedContent $content): void
    {
        $read = fn (int $from, int $bytes): string => $this->source->disk($content->disk()->was->name)->read($from, $bytes);
        match ($content->kind) {
            OrderedContent::TABLE => $this->bytes($content, $content->disk()->script()),
            OrderedContent::CODE => $this->bytes($content, $read(0, LayoutReading::CODE)),
            OrderedContent::GAP => $this->bytes($content, $read(512, $content->disk()->gap())),
            OrderedContent::HEAD => $this->head($content),
            OrderedContent::IMAGE => $this->pour($content, fn ($pipe, Closure $drain) => $this->image($content, $pipe, $drain)),
            default => $this->pour($content, fn ($pipe, Closure $drain) => $this->files($content, $pipe, $drain)),
        };
    }

    private function head(OrderedContent $content): void
    {
        $key = $content->place()->key;
        [$group, $part] = $this->plan->part($key) ?? throw CannotBring::because("$key is a part of no volume group.");
        $head = GroupHead::bytes($part, $group->text());
        $this->sums[$key] = hash('sha256', $head);
        $this->bytes($content, (string) gzencode($head));
    }

    private function bytes(OrderedContent $content, string $bytes): void
    {
        $this->put($content->number, 0, $bytes);
        $this->put($content->number, 1, null);
    }

    /** @param  Closure(resource, Closure(): void): void  $write  what writes it, telling now and then that it may be taken */
    private function pour(OrderedContent $content, Closure $write): void
    {
        $pipe = fopen('php://temp/maxmemory:'.(4 * Exchange::PIECE), 'w+b') ?: throw CannotBring::because('There is no room to pack it.');
        $piece = 0;
        $take = function (int $least) use ($content, $pipe, &$piece): void {
            while (ftell($pipe) >= $least && ftell($pipe) > 0) {
                rewind($pipe);
                $this->put($content->number, $piece++, (string) fread($pipe, Exchange::PIECE));
                $rest = (string) stream_get_contents($pipe);
                rewind($pipe);
                ftruncate($pipe, 0);
                fwrite($pipe, $rest);
            }
        };
        $write($pipe, fn () => $take(Exchange::PIECE));
        $take(1);
        $this->put($content->number, $piece, null);
        fclose($pipe);
    }

    /**
     * @param  resource  $pipe
     * @param  Closure(): void  $drain
     */
    private function image(OrderedContent $content, $pipe, Closure $drain): void
    {
        $packed = new GzipMemberWriter($pipe, PHP_INT_MAX, 1);
        $hash = hash_init('sha256');
        foreach ($this->source->image($content->place()->key, $content->place()->was) as $bytes) {
            hash_update($hash, $bytes);
            $packed->write($bytes);
            $this->progress->advanced(0, strlen($bytes));
            $drain();
        }
        $packed->finish();
        $this->sums[$content->place()->key] = hash_final($hash);
    }

    /**
     * @param  resource  $pipe
     * @param  Closure(): void  $drain
     */
    private function files(OrderedContent $content, $pipe, Closure $drain): void
    {
        $record = new TreeRecord($this->exchange->record($content->number));
        $tree = $this->source->tree($content->place()->key);
        $tree = $this->renewsId ? new RenewedTree($tree) : $tree;
        $sender = new TreeSender($tree, $record);
        $sender->pour(new TarWriter(new GzipMemberWriter($pipe, PHP_INT_MAX, 1)), function (int $files, int $bytes) use ($drain): void {
            $this->progress->advanced($files, $bytes);
            $drain();
        });
        $this->isRenewed = $this->isRenewed || ($tree instanceof RenewedTree && $tree->isRenewed);
        $this->leftOut += $sender->leftOut;
        $this->records[$content->place()->key] = $record;
    }

    private function put(int $content, int $piece, ?string $bytes): void
    {
        while (! $this->exchange->hasRoom($content, $piece)) {
            ($this->wait)();
        }
        $this->exchange->put($this->token, $content, $piece, $bytes);
    }
}
