@php($filters = $view->filters())
@if ($filters->isNotEmpty() || !$view->filter->isNone())
    <div class="line-form mb-2">
        @foreach ($filters as $kept)
            <form method="post" action="/filters" class="d-inline">@csrf
                <a href="/?{{ $kept->query }}"
                    @if ($kept->query === $view->filter->query()) aria-current="true" @endif>{{ $kept->name }}</a>
                <input type="hidden" name="name" value="{{ $kept->name }}">
                <button class="link muted" name="do" value="forget" aria-label="Give up the filter {{ $kept->name }}">×</button>
            </form>
        @endforeach
        @if (!$view->filter->isNone())
            <form method="post" action="/filters?{{ $view->filter->query() }}" class="line-form m-0">@csrf
                <label class="muted" for="filter-name">keep this filter as</label>
                <input class="form-control" id="filter-name" name="name" size="12" maxlength="60" required>
                <button class="btn btn-sm btn-outline-primary" name="do" value="keep">Keep it</button>
            </form>
        @endif
        @error('name')
            <span class="attention">{{ $message }}</span>
        @enderror
    </div>
@endif
