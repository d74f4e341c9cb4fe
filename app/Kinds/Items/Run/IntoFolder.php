<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Hosts\Hosts;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemForm;
use App\Kinds\Items\Order\ItemsOrder;
use App\Runs\RunFiles;
use App\Trees\Run\Targets;
use App\Words;
use Kaiseki\Core\Bag\Bag;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\NewFile;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Mail\Calendar\CalendarFile;
use Kaiseki\Core\Mail\Contact\ContactFile;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\MaildirName;
use Kaiseki\Core\Mail\Mbox;
use Kaiseki\Core\Mail\MboxWriter;
use Kaiseki\Core\Mail\Message;
use Kaiseki\Core\Proof\SignedProof;

/** Writes items into a new folder of files. They are staged beside, and put in place when all are there. */
final class IntoFolder implements ItemPlacing
{
    private const AT_ONCE = 300;

    private readonly string $staging;

    /** @var array<string, list<ChosenItem>> file => what is in it, in order */
    private array $files = [];

    private readonly string $journal;

    private readonly ?SealedBag $bag;

    private ?ItemsZip $zip = null;

    public function __construct(
        private readonly ItemsOrder $order,
        private readonly ItemsAccount $account,
        private readonly ItemReader $reader,
    ) {
        $this->staging = RestoreOrder::stagingOf((string) $account->run->id);
        $this->journal = RunFiles::journal($account->run);
        $this->bag = $order->form === ItemForm::Bag ? new SealedBag($account->run, $order) : null;
    }

    public function locks(array $chosen): array
    {
        return [$this->order->target => 'the folder '.Shown::name($this->order->target)];
    }

    public function look(array $chosen): string
    {
        if (Journal::holds($this->journal, Journal::STAGED)) {
            return 'all was staged before the interruption';
        }
        Targets::refuseUnfit($this->order->target);
        $target = $this->target();
        $names = array_diff($target->names(''), [$this->staging]);
        if ($names !== []) {
            throw CannotBringItems::because('The folder '.Shown::name($this->order->target).' is not empty; name a new one.');
        }
        $needed = array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $chosen));
        if ($target->freeBytes() < $needed) {
            throw CannotBringItems::because(
                'Its volume has '.Words::size($target->freeBytes()).' free, and '.Words::size($needed).' are needed.',
            );
        }
        $target->removeTree($this->staging); // what a killed attempt left

        return 'it is empty';
    }

    public function bring(array $chosen): string
    {
        $target = $this->target();
        $this->files = $this->named($chosen);
        if (! Journal::holds($this->journal, Journal::STAGED)) {
            $this->stage($target);
        }
        foreach ($target->names($this->staging) as $name) {
            $target->rename(EntryPath::join($this->staging, $name), $name) ||
                throw CannotBringItems::because("Something stands at $name already.");
        }
        $target->remove($this->staging);
        $target->sync();

        return Words::count(count($this->files), 'file').', '.$this->order->form->words();
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return array<string, list<ChosenItem>> file => what is in it
     */
    private function named(array $chosen): array
    {
        $names = new ItemFileNames($this->order);
        $files = $seen = [];
        foreach ($chosen as $one) {
            // One day of a series is a file with the whole of it, once.
            $place = "{$one->item->id}\0{$one->span->path}";
            if (isset($seen[$place])) {
                continue;
            }
            $seen[$place] = true;
            $files[$names->of($one, MaildirName::of($one->span->name)->flags)][] = $one;
        }

        return $files;
    }

    private function stage(Target $target): void
    {
        $target->makeFolder($this->staging);
        $this->zip = $this->order->form === ItemForm::Zip ? new ItemsZip($this->account->run->id) : null;
        foreach (array_chunk($this->files, self::AT_ONCE, true) as $some) {
            $this->order->form === ItemForm::Mbox ? $this->writeTogether($target, $some) : $this->writeEach($target, $some);
        }
        if ($this->zip !== null) {
            $file = $this->create($target, $this->zipName());
            $this->zip->into($file);
            $file->finish(0600, 0, 0, time() * 1_000_000_000, false);
        }
        foreach ($this->bag?->files() ?? [] as $name => $content) {
            $file = $this->create($target, $name);
            $file->data($content);
            $file->finish(0600, 0, 0, time() * 1_000_000_000, false);
        }
        $target->settle();
        Journal::open($this->journal)->add(Journal::STAGED);
    }

    public function check(array $chosen): string
    {
        $target = $this->target();
        $wrong = [];
        foreach ($this->readAgain($target) as $file => $stream) {
            $items = $this->files[$file];
            $found = $stream === null ? [] : $this->identities($stream, $items[0]->item->sort);
            foreach ($items as $number => $one) {
                if (! $this->isThere($one, $found[$number] ?? '')) {
                    $wrong[] = Shown::name((string) $file).' does not hold what is in the set';

                    continue;
                }
                $this->account->right($one, (string) $file);
                $folder = $this->order->folderFor($one);
                $this->account->folders[$folder] = ($this->account->folders[$folder] ?? 0) + 1;
            }
        }
        if ($this->bag !== null) {
            $this->checkBag($target);
        }
        $count = ItemCount::words($this->account->sorts);
        $this->account->check('each by its digest, read again from the folder', $wrong, "$count right");

        return "$count, ".Words::size($this->account->bytes).' read again';
    }

    /** @return iterable<string, resource|null> file => what is in it now */
    private function readAgain(Target $target): iterable
    {
        if ($this->order->form !== ItemForm::Zip) {
            foreach (array_keys($this->files) as $file) {
                yield (string) $file => $target->read((string) $file);
            }

            return;
        }
        $this->account->zip = WrittenZip::in($target, $this->zipName());
        $zip = $target->read($this->zipName()) ?? throw CannotBringItems::because('The zip is not there any more.');
        foreach (ItemsZip::contents($zip, array_map(strval(...), array_keys($this->files)), $this->account->run->id) as $file => $bytes) {
            $stream = $bytes === null ? false : fopen('php://memory', 'w+b');
            if ($stream !== false) {
                fwrite($stream, (string) $bytes);
                rewind($stream);
            }
            yield $file => $stream === false ? null : $stream;
        }
    }

    /** Each file against the manifests that were written, and those against the seal. */
    private function checkBag(Target $target): void
    {
        $read = fn (string $path): string => ($stream = $target->read($path)) === null ? '' : (string) stream_get_contents($stream);
        $tags = $read(Bag::TAG_MANIFEST);
        $payload = Bag::read($read(Bag::MANIFEST));
        $wrong = [];
        foreach ($payload + Bag::read($tags) as $path => $digest) {
            if (hash('sha256', $read((string) $path)) !== $digest) {
                $wrong[] = Shown::name((string) $path).' is another than its manifest says';
            }
        }
        $this->account->bag = hash('sha256', $tags);
        $sealed = SignedProof::parse($read(SealedBag::SEAL));
        if (! $sealed->isSound() || $sealed->evidence['tagmanifest_sha256'] !== $this->account->bag) {
            $wrong[] = 'the seal does not fit';
        }
        if (count($payload) !== count($this->files)) {
            $wrong[] = 'the manifest names '.count($payload).' files of '.count($this->files);
        }
        $this->account->check('the manifests of the bag, and its seal', $wrong, "SHA-256 of its tag manifest: {$this->account->bag}");
    }

    private function target(): Target
    {
        return Hosts::target(null, $this->order->target, Targets::root(null, $this->order->target));
    }

    /** Of a message with an end of line, which an mbox gives to those that have none. */
    private function endedIdentity(ChosenItem $one): string
    {
        $bytes = $this->reader->one($one->item->id);

        return $bytes === null ? '' : Message::identityOf("$bytes\n");
    }

    private function isThere(ChosenItem $one, string $identity): bool
    {
        return $identity === $one->item->identity ||
            ($this->order->form === ItemForm::Mbox && ! $one->item->sort->isOfFields() && $identity === $this->endedIdentity($one));
    }

    /**
     * @param  resource  $stream
     * @return list<string>
     */
    private function identities($stream, ItemSort $sort): array
    {
        if ($sort->isOfFields()) {
            $bytes = (string) stream_get_contents($stream);
            $each = $sort === ItemSort::Contact
                ? array_map(fn (array $card): string => substr($bytes, ...$card), ContactFile::cards($bytes))
                : CalendarFile::objects($bytes);

            return array_map($sort->identityOf(...), $each);
        }
        if ($this->order->form !== ItemForm::Mbox) {
            return [Message::identityOf((string) stream_get_contents($stream))];
        }
        $mbox = Mbox::of($stream);
        $found = [];
        foreach ($mbox->messages() as $message) {
            $found[] = Message::identityOf($mbox->content($message));
        }

        return $found;
    }

    /** @param  array<string, list<ChosenItem>>  $files */
    private function writeEach(Target $target, array $files): void
    {
        $byId = [];
        foreach ($files as $file => [$one]) {
            $byId[$one->item->id][(string) $file] = $one;
        }
        $missing = $this->reader->read(array_keys($byId), function (int $id, string $bytes) use ($target, $byId): void {
            foreach ($byId[$id] as $file => $one) {
                $this->writeOne($target, (string) $file, $bytes, $one->receivedAt());
                $this->bag?->add((string) $file, $one, $bytes);
                $this->account->progress->advanced(1, strlen($bytes));
            }
        });
        foreach ($missing as $id) {
            foreach ($byId[$id] as $file => $one) {
                unset($this->files[$file]);
                $this->account->left($one, 'it is in no archive that can be read', true);
            }
        }
    }

    private function writeOne(Target $target, string $file, string $bytes, int $receivedAt): void
    {
        if ($this->zip !== null) {
            $this->zip->add($file, $bytes, $receivedAt);

            return;
        }
        $new = $this->create($target, $file);
        $new->data($bytes);
        $new->finish(0600, 0, 0, $receivedAt * 1_000_000_000, false);
    }

    private function zipName(): string
    {
        return "items-of-run-{$this->account->run->id}.zip";
    }

    /** @param  array<string, list<ChosenItem>>  $files */
    private function writeTogether(Target $target, array $files): void
    {
        foreach ($files as $file => $items) {
            $new = $this->create($target, (string) $file);
            $written = $items[0]->item->sort->isOfFields()
                ? $this->writeCollection($new, $items)
                : array_merge(...array_map(fn (array $some): array => $this->write($new, $some), array_chunk($items, self::AT_ONCE)));
            $new->finish(0600, 0, 0, ($items[count($items) - 1])->receivedAt() * 1_000_000_000, false);
            $this->files[$file] = $written;
        }
    }

    /**
     * @param  list<ChosenItem>  $some
     * @return list<ChosenItem> those that could be read
     */
    private function write(NewFile $file, array $some): array
    {
        $bytes = $this->reader->all(array_map(fn (ChosenItem $one): int => $one->item->id, $some));
        $written = [];
        foreach ($some as $one) {
            $message = $bytes[$one->item->id] ?? null;
            if ($message === null) {
                $this->account->left($one, 'it is in no archive that can be read', true);

                continue;
            }
            $file->data(MboxWriter::entry($message, $one->receivedAt()));
            $this->account->progress->advanced(1, strlen($message));
            $written[] = $one;
        }

        return $written;
    }

    /**
     * A whole calendar, or a book of contacts.
     *
     * @param  list<ChosenItem>  $items
     * @return list<ChosenItem> those that could be read
     */
    private function writeCollection(NewFile $file, array $items): array
    {
        $bytes = $this->reader->all(array_map(fn (ChosenItem $one): int => $one->item->id, $items));
        $written = $each = [];
        foreach ($items as $one) {
            if (isset($bytes[$one->item->id])) {
                $written[] = $one;
                $each[] = rtrim($bytes[$one->item->id], "\r\n")."\r\n";
                $this->account->progress->advanced(1, strlen($bytes[$one->item->id]));
            } else {
                $this->account->left($one, 'it is in no archive that can be read', true);
            }
        }
        $file->data($items[0]->item->sort === ItemSort::Contact ? implode('', $each) : CalendarFile::together($each));

        return $written;
    }

    private function create(Target $target, string $file): NewFile
    {
        $folder = EntryPath::split($file)[0];
        $folder === '' || $target->makeFolder(EntryPath::join($this->staging, $folder));
        if ($this->order->form === ItemForm::Maildir && basename($folder) === 'cur') {
            foreach (['new', 'tmp'] as $beside) {
                $target->makeFolder(EntryPath::join($this->staging, EntryPath::join(EntryPath::split($folder)[0], $beside)));
            }
        }

        return $target->createFile(EntryPath::join($this->staging, $file));
    }
}
