<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Sets\CannotPlan;
use App\Sets\Points;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `item`: one item, with where it lay when; or its source. */
final class ItemCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('item')
            ->setDescription('Shows one message, appointment or contact, and where it lay when')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('id', InputArgument::REQUIRED, 'as find and browse give it, or the beginning of its digest')
            ->addOption('source', null, InputOption::VALUE_NONE, 'its bytes as they were, and nothing else');
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $id = strtolower((string) $input->getArgument('id'));
        $item = ItemFinder::named($workload, $id) ?? throw new InvalidArgumentException("There is no item \"$id\", or several begin so.");
        $points = new Points($workload);
        $bytes = (new ItemReader($points))->one($item->id) ?? throw CannotPlan::because('it is in no archive that can be read');
        $points->stores->release();
        $what = "The {$item->sort->noun()} {$item->key()} of {$workload->name} was read.";
        TrailEntry::add($what, null, null, sort: TrailSort::Content, workload: $workload);
        if ($input->getOption('source')) {
            fwrite(STDOUT, $bytes);

            return self::DONE;
        }
        $this->answer(
            ItemJson::of($item) + self::said($item, $bytes) + [
                'wrong' => $item->details->wrong,
                'places' => array_map(fn (ItemSpan $span): array => array_intersect_key(
                    ItemJson::of($item, $span),
                    ['mailbox' => 0, 'folder' => 0, 'flags' => 0, 'received_at' => 0, 'first' => 0, 'until' => 0],
                ), $item->spans),
            ],
            function () use ($item, $bytes): iterable {
                foreach (self::lines($item, $bytes) as $line) {
                    yield Shown::name($line);
                }
                yield '';
                foreach ($item->spans as $span) {
                    yield '  '.ItemJson::line($item, $span);
                }
            },
        );

        return self::DONE;
    }

    /** @return array<string, mixed> what its sort says beyond what all have */
    private static function said(FoundItem $item, string $bytes): array
    {
        return match (true) {
            $item->sort === ItemSort::Message => [
                'addressed' => $item->details->to,
                'cc' => $item->details->cc,
                'attached' => $item->details->attached,
                'text' => Message::of($bytes)->text(),
            ],
            $item->sort === ItemSort::Contact => ['fields' => ContactCard::of($bytes)->fields()],
            default => ['text' => CalendarObject::of($bytes)->words()],
        };
    }

    /** @return iterable<string> for a person; nothing in them is clean yet */
    private static function lines(FoundItem $item, string $bytes): iterable
    {
        if ($item->sort === ItemSort::Contact) {
            yield $item->title();
            foreach (ContactCard::of($bytes)->fields() as $field) {
                yield "{$field->field}: {$field->text}".($field->kind === '' ? '' : " ({$field->kind})");
            }

            return;
        }
        $isMessage = $item->sort === ItemSort::Message;
        yield ($isMessage ? 'From: ' : 'Asked by: ').$item->sender;
        yield ($isMessage ? 'To: ' : 'Asked: ').$item->recipients;
        yield "Subject: {$item->subject}";
        yield ($isMessage ? 'Date: ' : 'Begins: ').($item->sentAt === null ? 'not said' : gmdate('Y-m-d H:i:s\Z', $item->sentAt));
        if ($item->details->calendar !== null && $item->details->calendar->repeats !== '') {
            yield "Repeats: {$item->details->calendar->repeats}";
        }
        foreach ($item->details->attached as $thing) {
            yield "Attached: {$thing->name} ({$thing->type}, ".number_format($thing->size).' bytes)';
        }
        yield '';
        yield from explode("\n", $isMessage ? Message::of($bytes)->text() : CalendarObject::of($bytes)->words());
    }
}
