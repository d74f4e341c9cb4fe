<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;
use App\Models\Run;
use App\Runs\DigestedFile;
use App\Runs\RunFiles;
use App\Runs\RunProgress;
use Kaiseki\Core\Proof\CheckLine;

/** What a run of items tells of itself: what it brought, what it left, and what it found when it read that again. */
final class ItemsAccount
{
    /** Of a list so many lines are kept with the run. */
    private const LINES = 200;

    /** @var list<CheckLine> */
    public array $checks = [];

    public int $items = 0;

    /** @var array<string, int> see ItemSort => how many of them are right */
    public array $sorts = [];

    public int $bytes = 0;

    /** Items that lay there already. */
    public int $there = 0;

    /** What stood in the place of something, and is kept. */
    public int $replaced = 0;

    /** SHA-256 of the tag manifest of a bag, hex; '' for what is none. */
    public string $bag = '';

    /** The one file that was written, if it is one: with what it is known by again. */
    public ?WrittenZip $zip = null;

    /** @var list<array{path: string, because: string, loss: bool}> */
    public array $left = [];

    public int $leftCount = 0;

    /** @var array<string, int> mailbox and folder, in words => items that are there now */
    public array $folders = [];

    private readonly DigestedFile $entries;

    public function __construct(public readonly Run $run, public readonly RunProgress $progress)
    {
        $this->entries = new DigestedFile(RunFiles::entries($run));
    }

    /** One that is right, and where it is now. */
    public function right(ChosenItem $one, string $where): void
    {
        $sort = $one->item->sort;
        $this->items++;
        $this->sorts[$sort->value] = ($this->sorts[$sort->value] ?? 0) + 1;
        $this->bytes += $one->item->size;
        $this->entries->add(json_encode(
            [
                'mailbox' => $one->span->mailbox,
                'folder' => $one->span->folder,
                'now' => mb_scrub($where),
                'kind' => $sort->noun(),
                ($sort->isOfFields() ? 'uid' : 'message_id') => $one->item->messageId,
            ] + ($one->instance === '' ? [] : ['instance' => $one->instance]) + [
                'received_at' => gmdate('Y-m-d\TH:i:s\Z', $one->receivedAt()),
                'size' => $one->item->size,
                'identity_blake2b_256' => bin2hex($one->item->identity),
            ],
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE,
        )."\n");
    }

    public function left(ChosenItem $one, string $because, bool $isLoss): void
    {
        $this->leftCount++;
        if (count($this->left) < self::LINES) {
            $path = "{$one->span->mailbox}/{$one->span->folder}: {$one->title()}";
            $this->left[] = ['path' => mb_scrub($path), 'because' => $because, 'loss' => $isLoss];
        }
    }

    /** @param  list<string>  $wrong  none if it passed */
    public function check(string $check, array $wrong, string $right): void
    {
        $this->checks[] = CheckLine::unless($wrong, $check, $right);
    }

    public function isRight(): bool
    {
        return CheckLine::wrong($this->checks) === [] && array_filter($this->left, fn (array $row): bool => $row['loss']) === [];
    }

    /** The digest of the list of what is right, hex. */
    public function finish(): string
    {
        return bin2hex($this->entries->finish());
    }
}
