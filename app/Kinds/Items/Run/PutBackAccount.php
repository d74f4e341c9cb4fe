<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\LeftAsIs;
use App\Kinds\PutBackTold;
use App\Models\Run;
use App\Words;

/** What came of putting back what a run laid. */
final class PutBackAccount
{
    /** Of a list so many lines are kept with the run. */
    private const LINES = 1_000;

    public int $removed = 0;

    /** What stood there before, and stands there again. */
    public int $returned = 0;

    /** @var list<LeftAsIs> */
    private array $left = [];

    public function leave(string $path, int $count, string $because): void
    {
        $this->left[] = new LeftAsIs(mb_scrub($path).($count > 1 ? " ($count items)" : ''), $because);
    }

    public function told(Run $run): PutBackTold
    {
        $lines = [Words::count($this->removed, 'item').' that the run had laid went, '.
            number_format($this->returned).' that it had replaced are there again.'];
        foreach (array_slice($this->left, 0, 100) as $left) {
            $lines[] = "  {$left->told()}";
        }
        $document = [
            'removed' => $this->removed,
            'returned' => $this->returned,
            'left' => LeftAsIs::kept(array_slice($this->left, 0, self::LINES)),
            'kept' => [],
        ];

        return new PutBackTold($document, ['run' => $run->id] + $document, $lines, $this->left === []);
    }
}
