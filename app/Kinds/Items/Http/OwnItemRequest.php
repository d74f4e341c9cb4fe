<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Own\OwnMailbox;
use App\Kinds\Items\Own\OwnOrder;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** What somebody asks of a mailbox of their own. Whose it is, is looked at before anything else: others' are not there. */
final class OwnItemRequest extends FormRequest
{
    /** @var list<OwnMailbox> all of the person; whose it is, is asked once */
    public array $mailboxes = [];

    private OwnMailbox $box;

    public function authorize(): bool
    {
        $this->mailboxes = OwnMailbox::of($this->person());
        $workload = $this->route('workload');
        assert($workload instanceof Workload);
        $named = $this->filled('mailbox') ? $this->string('mailbox')->value() : null;
        foreach ($this->mailboxes as $one) {
            if ($one->workload->id === $workload->id && ($named === null || $one->name === $named)) {
                $this->box = $one;

                return true;
            }
        }

        return false;
    }

    /** The mailbox that is named, else their first of the workload. */
    public function box(): OwnMailbox
    {
        return $this->box;
    }

    public function person(): User
    {
        $user = $this->user();
        assert($user instanceof User);

        return $user;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'mailbox' => 'nullable|string|max:300',
            'ticked' => 'array|max:500',
            'ticked.*' => ['string', 'regex:'.ItemChoiceRequest::ITEM],
            'items' => ['nullable', 'string', 'max:40000', 'regex:/^[0-9a-f@TZ,]*$/D'],
            'folder' => ['nullable', 'string', 'max:600', 'regex:/^[^\x00-\x1f\x7f]*$/'],
            'conflict' => ['nullable', Rule::in([ItemConflict::MissingOnly->value, ItemConflict::Replace->value])],
            'seen' => 'nullable|string|size:64',
        ];
    }

    /** @return list<string> what was ticked, or stands in the address with commas between; see ItemSelection */
    private function items(): array
    {
        $ticked = array_map(strval(...), array_values((array) $this->input('ticked', [])));
        $named = array_filter(
            explode(',', $this->string('items')->value()),
            fn (string $one): bool => preg_match(ItemChoiceRequest::ITEM, $one) === 1,
        );

        return array_values(array_unique([...$ticked, ...$named]));
    }

    public function order(): OwnOrder
    {
        return new OwnOrder(
            $this->person(),
            $this->box,
            $this->items(),
            $this->string('folder')->value(),
            ItemConflict::tryFrom($this->string('conflict')->value()) ?? ItemConflict::MissingOnly,
        );
    }
}
